"use client";
import { useTranslations } from "next-intl";
import { useState } from "react";
import { request } from "@/components/data/request";
import { Big } from "../../parts";
import { useSiteHere } from "../../site-here";
import { usePhone } from "../../store/phone";

const MINUTES = 2;

/** Opens the station for two minutes where a gateway takes orders. It is asked now or not at all: nothing opens later, when nobody looks. */
export function RunButton({ stationId }: { stationId: string }) {
  const t = useTranslations("walk");
  const { siteId, site } = useSiteHere();
  const online = usePhone((s) => s.online);
  const [said, setSaid] = useState<string | null>(null);
  const [busy, setBusy] = useState(false);
  const can = site.gateway?.speaks === "orders" && site.gateway.state === "live";
  const run = (): void => {
    setBusy(true);
    const what = { kind: "run", runs: [{ stationId, minutes: MINUTES }] };
    request("POST", `/api/sites/${siteId}/orders`, { id: crypto.randomUUID(), what })
      .then(
        () => setSaid(t("running")),
        (error: Error) => setSaid(error.message),
      )
      .finally(() => setBusy(false));
  };
  const why = can ? t("runOffline") : t("runNone");
  return (
    <>
      <Big className="min-h-20" disabled={!can || !online || busy} onClick={run}>
        {t("run", { minutes: MINUTES })}
      </Big>
      {(said || !can || !online) && (
        <p role="status" className="order-last col-span-2 text-sm text-faint">
          {said ?? why}
        </p>
      )}
    </>
  );
}
