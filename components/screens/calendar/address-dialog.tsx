"use client";
import { useState } from "react";
import type { useCalendar } from "@/components/data/use-visits";
import { Button } from "@/components/kit/button";
import { useConventions } from "@/components/kit/conventions";
import { Dialog } from "@/components/kit/dialog";
import { Problem } from "@/components/kit/notice";
import { OnceTold } from "@/components/kit/once-told";

type There = ReturnType<typeof useCalendar>;

/** The secret address from which another calendar reads this one (iCalendar): said once, changed or ended at any time. */
export function AddressDialog({
  madeAt,
  make,
  end,
  onClose,
}: {
  madeAt: string | null;
  make: There["makeAddress"];
  end: There["endAddress"];
  onClose: () => void;
}) {
  const { here } = useConventions();
  const [address, setAddress] = useState<string | null>(null);
  const onMake = (): void =>
    make.mutate(undefined, { onSuccess: ({ path }) => setAddress(`${window.location.origin}${path}`) });
  return (
    <Dialog open title="In another calendar" onClose={onClose}>
      <div className="grid max-w-xl gap-3">
        <p>
          Any calendar that reads iCalendar from an address shows what you see here, and keeps it up to date. Whoever
          has the address sees it too, without signing in: keep it to yourself. Another one ends the one before.
        </p>
        {madeAt && address === null && (
          <p className="text-faint">Yours was made {here(madeAt)}; it is not shown again.</p>
        )}
        {address && (
          <OnceTold label="The address of your calendar" text={address}>
            Shown this once:
          </OnceTold>
        )}
        {(make.error ?? end.error) && <Problem>{(make.error ?? end.error)?.message}</Problem>}
        <div className="flex flex-wrap gap-2">
          <Button rank="main" disabled={make.isPending} onClick={onMake}>
            {madeAt ? "Make another address" : "Make an address"}
          </Button>
          {madeAt && (
            <Button
              rank="quiet"
              disabled={end.isPending}
              onClick={() => end.mutate(undefined, { onSuccess: () => setAddress(null) })}
            >
              End it
            </Button>
          )}
        </div>
      </div>
    </Dialog>
  );
}
