"use client";
import { MapPin } from "lucide-react";
import Link from "next/link";
import { NoteField, TextField } from "@/components/kit/fields";
import { InspectorPart } from "@/components/kit/inspector";
import type { FileNamed } from "./file-edits";
import { FilesField } from "./files-field";
import { useWorkspace } from "./site-draft";

type Words = {
  id: string;
  description?: string | undefined;
  notes?: string | undefined;
  files?: FileNamed[] | undefined;
};

/** What someone wrote and kept about an element: what it is, what to know of it, its photographs and papers. */
export function WordsFields({ of, put }: { of: Words; put: (values: Pick<Words, "description" | "notes">) => void }) {
  const { canEdit } = useWorkspace("canEdit");
  return (
    <InspectorPart title="Description, notes, photographs">
      <div className="flex flex-col gap-2">
        <TextField
          label="Description"
          value={of.description ?? ""}
          disabled={!canEdit}
          onCommit={(v) => put({ description: v.trim() || undefined })}
        />
        <NoteField
          label="Notes"
          most={20_000}
          value={of.notes ?? ""}
          disabled={!canEdit}
          onCommit={(v) => put({ notes: v.trim() === "" ? undefined : v })}
        />
      </div>
      <OnPlan pieceId={of.id} />
      <FilesField pieceId={of.id} files={of.files ?? []} />
    </InspectorPart>
  );
}

/** The way to the piece's pin, where a plan has one. */
function OnPlan({ pieceId }: { pieceId: string }) {
  const { siteId, draft } = useWorkspace("siteId", "draft");
  const plan = draft.plans?.find((p) => p.pins.some((pin) => pin.id === pieceId));
  if (!plan) return null;
  const query = new URLSearchParams({ view: "plan", plan: plan.id, at: pieceId });
  return (
    <Link className="link mt-1 inline-flex items-center gap-1 text-sm" href={`/sites/${siteId}/waterworks?${query}`}>
      <MapPin className="size-4" aria-hidden />
      On the plan {plan.name}
    </Link>
  );
}
