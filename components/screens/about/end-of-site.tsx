"use client";
import { Archive, ArchiveRestore, Download } from "lucide-react";
import { useId, useState } from "react";
import { useSiteEnd } from "@/components/data/use-site-end";
import { Button, ButtonLink } from "@/components/kit/button";
import { Dialog } from "@/components/kit/dialog";
import { Labelled } from "@/components/kit/fields";
import { Input } from "@/components/kit/inputs";
import { Problem } from "@/components/kit/notice";

/** A site is archived and brought back; or deleted for good, with its name written and its file kept. */
export function EndOfSite({ siteId, name }: { siteId: string; name: string }) {
  const id = useId();
  const { archived, archive, remove } = useSiteEnd(siteId);
  const [open, setOpen] = useState(false);
  const [typed, setTyped] = useState("");
  return (
    <>
      <p className="mb-2 max-w-prose">
        {archived
          ? "This site is archived: it is kept with everything of it, changed by nobody, and stands on Rounds among the archived only."
          : "Archived, it is kept with everything of it, changed by nobody, and no longer stands among the others."}
      </p>
      <div className="flex flex-wrap gap-2">
        <Button
          icon={archived ? ArchiveRestore : Archive}
          disabled={archived === null || archive.isPending}
          onClick={() => archive.mutate(!archived)}
        >
          {archived ? "Bring it back" : "Archive this site"}
        </Button>
        <Button rank="danger" onClick={() => setOpen(true)}>
          Delete {name}…
        </Button>
      </div>
      {archive.error && <Problem className="mt-2">{archive.error.message}</Problem>}
      <Dialog title={`Delete ${name}`} open={open} onClose={() => setOpen(false)}>
        <form
          className="grid gap-3"
          onSubmit={(e) => {
            e.preventDefault();
            remove.mutate(typed);
          }}
        >
          <p>
            Its revisions, nights, alarms with their photographs and readings are deleted for good. Its file as it is
            now is kept and stands under Organisation, Sites.
          </p>
          <ButtonLink icon={Download} href={`/api/sites/${siteId}/file`} download>
            Take its file away now
          </ButtonLink>
          <Labelled id={id} label="Its name, as it stands">
            <Input id={id} autoComplete="off" value={typed} onChange={(e) => setTyped(e.target.value)} />
          </Labelled>
          {remove.error && <Problem>{remove.error.message}</Problem>}
          <Button type="submit" rank="danger" disabled={remove.isPending || typed.trim() !== name}>
            Delete this site
          </Button>
        </form>
      </Dialog>
    </>
  );
}
