"use client";
import { NoteField, TextField } from "@/components/kit/fields";
import { InspectorPart } from "@/components/kit/inspector";
import { useWorkspace } from "./site-draft";

type Words = {
  description?: string | undefined;
  notes?: string | undefined;
  files?: { id: string; name: string; about?: string | undefined }[] | undefined;
};

/** What someone wrote about an element: what it is, what to know of it, and the names of the files that its site file speaks of. */
export function WordsFields({ of, put }: { of: Words; put: (values: Pick<Words, "description" | "notes">) => void }) {
  const { canEdit } = useWorkspace("canEdit");
  return (
    <InspectorPart title="Description and notes">
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
        {(of.files ?? []).length > 0 && (
          <ul aria-label="Files it names" className="text-sm">
            {of.files?.map((f) => (
              <li key={f.id}>
                {f.name}
                {f.about ? <span className="text-faint"> — {f.about}</span> : null}
              </li>
            ))}
          </ul>
        )}
      </div>
    </InspectorPart>
  );
}
