import { clean, type Patch } from "@/core/site-file/patch";
import type { SiteFile } from "@/core/site-file/schema";

export type FileNamed = { id: string; name: string; about?: string | undefined };
type Piece = { id: string; files?: FileNamed[] | undefined };

/** Changes what files are named at whichever piece has the id, the site itself among them. */
function changeFiles(id: string, change: (files: FileNamed[]) => FileNamed[]) {
  const at = <P extends Piece>(piece: P): P => {
    if (piece.id !== id) return piece;
    const files = change(piece.files ?? []);
    return clean<P>({ ...piece, files: files.length > 0 ? files : undefined } as Patch<P>);
  };
  return (file: SiteFile): SiteFile => ({
    ...file,
    site: at(file.site),
    sources: file.sources.map(at),
    pocs: file.pocs.map(at),
    mainlines: file.mainlines.map(at),
    controllers: file.controllers.map(at),
    stations: file.stations.map(at),
    programs: file.programs.map(at),
  });
}

export const addFile = (pieceId: string, named: FileNamed) => changeFiles(pieceId, (files) => [...files, named]);

export const dropFile = (pieceId: string, fileId: string) =>
  changeFiles(pieceId, (files) => files.filter((f) => f.id !== fileId));

export const describeFile = (pieceId: string, fileId: string, about: string) =>
  changeFiles(pieceId, (files) =>
    files.map((f) => (f.id === fileId ? clean<FileNamed>({ ...f, about: about.trim() || undefined }) : f)),
  );
