"use client";
import { useEffect, useState } from "react";
import { useWorkspace } from "@/components/workspace/workspace";
import type { SiteFile } from "@/core/site-file/schema";
import { WaterworksDrawing } from "./drawing";
import { addController, addMainline, addPoc, addSource } from "./edits";
import { Ledger } from "./ledger";

export function WaterworksScreen() {
  const { draft, edit, canEdit, night } = useWorkspace();
  const [selected, setSelected] = useState<string | null>(null);
  const binding = night?.summary.binding;
  useEffect(() => {
    const jump = (): void => { if (window.location.hash === "#binding" && binding) setSelected(binding.deviceId ?? binding.elementId); };
    jump();
    window.addEventListener("hashchange", jump);
    return () => window.removeEventListener("hashchange", jump);
  }, [binding]);
  const add = (make: (file: SiteFile) => { file: SiteFile; id: string }): void => {
    const made = make(draft);
    edit(() => made.file);
    setSelected(made.id);
  };
  const empty = draft.sources.length + draft.pocs.length + draft.mainlines.length === 0;
  return (
    <div className="grid xl:grid-cols-[minmax(0,1fr)_24rem] gap-6">
      <section aria-label="Drawing" className="min-w-0 xl:sticky xl:top-2 xl:self-start">
        <div className="flex flex-wrap items-center gap-2 mb-2">
          <h2 className="text-2xl mr-3">Waterworks</h2>
          {canEdit && (
            <>
              <button type="button" className="act" onClick={() => add(addSource)}>+ Source</button>
              <button type="button" className="act" onClick={() => add(addPoc)}>+ Point of connection</button>
              <button type="button" className="act" onClick={() => add(addMainline)}>+ Mainline</button>
              <button type="button" className="act" onClick={() => add(addController)}>+ Controller</button>
            </>
          )}
        </div>
        {empty
          ? <p className="max-w-prose my-4">A sketch first, always. Begin with the source: where the water comes from. Then the point of connection with its meter, backflow preventer, master valve and flow sensor, then the mainlines it feeds, then the controller.</p>
          : <div className="overflow-x-auto"><WaterworksDrawing selected={selected} onSelect={setSelected} /></div>}
        {!empty && <p className="text-sm faint mt-2 max-w-prose">Thickness follows the ceiling; the jaws mark the piece that binds. Inside diameters are the standards' own, never nominal. Division of flow over several feeds is necessary, not sufficient: without a pressure calculation a feed of lower pressure may deliver nothing.</p>}
      </section>
      <section aria-label="Ledger" className="min-w-0 xl:max-h-[calc(100dvh-10rem)] xl:overflow-y-auto xl:pr-2" tabIndex={-1}><Ledger selected={selected} onSelect={setSelected} /></section>
    </div>
  );
}
