import { keptAt } from "@/components/data/keep-file";

export function PhotoLinks({ siteId, photoIds }: { siteId: string; photoIds: readonly string[] }) {
  return photoIds.map((id, i) => (
    <a key={id} className="link" href={keptAt(siteId, id)} target="_blank" rel="noreferrer">
      {photoIds.length > 1 ? `photograph ${i + 1}` : "photograph"}
    </a>
  ));
}
