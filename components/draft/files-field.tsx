"use client";
import { Camera, Paperclip, Trash2 } from "lucide-react";
import { useState } from "react";
import { asKept, keepFile, keptAt } from "@/components/data/keep-file";
import { IconButton } from "@/components/kit/button";
import { TextField } from "@/components/kit/fields";
import { FileButton } from "@/components/kit/file-button";
import { Problem } from "@/components/kit/notice";
import { addFile, describeFile, dropFile, type FileNamed } from "./file-edits";
import { useWorkspace } from "./site-draft";

const isPicture = (name: string): boolean => /\.(jpe?g|png|webp)$/i.test(name);

/** Photographs and papers of a piece of the site: looked at, described, added and taken off. What they are is kept at once; that the piece names them is saved with the rest. */
export function FilesField({ pieceId, files }: { pieceId: string; files: FileNamed[] }) {
  const { siteId, edit, canEdit } = useWorkspace("siteId", "edit", "canEdit");
  const [sending, setSending] = useState<string | null>(null);
  const [problem, setProblem] = useState<string | null>(null);
  const add = async (file: File): Promise<void> => {
    setProblem(null);
    setSending(file.name);
    try {
      const { content, name } = await asKept(file);
      edit(addFile(pieceId, await keepFile(siteId, content, name)));
    } catch (error) {
      setProblem(error instanceof Error ? error.message : String(error));
    } finally {
      setSending(null);
    }
  };
  if (files.length === 0 && !canEdit) return null;
  return (
    <div className="mt-2">
      {files.length > 0 && (
        <ul aria-label="Photographs and papers" className="mb-2 grid gap-2">
          {files.map((f) => (
            <li key={f.id} className="flex items-start gap-2">
              <Look siteId={siteId} file={f} />
              <div className="min-w-0 grow">
                <a
                  className="link block truncate text-sm"
                  href={keptAt(siteId, f.id)}
                  title={f.name}
                  {...(isPicture(f.name) ? { target: "_blank", rel: "noreferrer" } : { download: f.name })}
                >
                  {f.name}
                </a>
                {canEdit ? (
                  <TextField
                    hideLabel
                    label={`What ${f.name} shows`}
                    placeholder="What it shows"
                    value={f.about ?? ""}
                    onCommit={(about) => edit(describeFile(pieceId, f.id, about))}
                  />
                ) : (
                  <p className="text-sm text-faint">{f.about}</p>
                )}
              </div>
              {canEdit && (
                <IconButton label={`Take ${f.name} off`} icon={Trash2} onClick={() => edit(dropFile(pieceId, f.id))} />
              )}
            </li>
          ))}
        </ul>
      )}
      {canEdit && (
        <div className="flex flex-wrap gap-1">
          <FileButton
            name="A photograph"
            accept="image/*"
            capture="environment"
            rank="quiet"
            icon={Camera}
            disabled={sending !== null}
            onFile={add}
          >
            Photograph
          </FileButton>
          <FileButton name="A file" accept="" rank="quiet" icon={Paperclip} disabled={sending !== null} onFile={add}>
            File
          </FileButton>
        </div>
      )}
      {sending !== null && (
        <p role="status" className="text-sm text-faint">
          Keeping {sending}…
        </p>
      )}
      {problem !== null && <Problem>{problem}</Problem>}
    </div>
  );
}

/** A small look at a picture; what is named only, as in a file that came from elsewhere, is said to be. */
function Look({ siteId, file }: { siteId: string; file: FileNamed }) {
  const [there, setThere] = useState(true);
  if (!isPicture(file.name)) return <Paperclip className="mt-0.5 size-5 shrink-0 text-faint" aria-hidden />;
  if (!there) return <span className="w-16 shrink-0 text-xs text-faint">named only, not kept here</span>;
  return (
    // biome-ignore lint/performance/noImgElement: behind the session, of one size
    <img
      src={keptAt(siteId, file.id)}
      alt={file.about ?? file.name}
      className="h-12 w-16 shrink-0 border border-base-300 object-cover"
      loading="lazy"
      onError={() => setThere(false)}
    />
  );
}
