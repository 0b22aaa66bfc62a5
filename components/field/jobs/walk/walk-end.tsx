"use client";
import { useTranslations } from "next-intl";
import type { WalkView } from "@/contracts/walks";
import { Big, Part, Words } from "../../parts";
import { useSiteHere } from "../../site-here";
import { useKept } from "../../use-kept";
import { StationLine } from "./walk-stations";
import { sumOf } from "./walk-sums";

/** How the walk went, what of it is to do now, what was left; and its end. */
export function WalkEnd({ walk, onGo }: { walk: WalkView; onGo: (to: string | null) => void }) {
  const t = useTranslations("walk");
  const { site, enter, mayEnter } = useSiteHere();
  const [note, setNote] = useKept(`walk ${walk.id} note`, "");
  const sums = sumOf(walk);
  const mine = new Set(walk.looked.map((l) => l.id));
  const todos = site.todos.filter((todo) => mine.has(todo.id));
  const looked = new Map(walk.looked.map((l) => [l.stationId, l]));
  const open = walk.stationIds.filter((id) => looked.get(id)?.state !== "fine");
  return (
    <div className="py-3">
      <h2 className="text-xl">{t("end")}</h2>
      <p>{t("endWords", { ...sums, of: walk.stationIds.length })}</p>
      {todos.length > 0 && (
        <Part title={t("becomes")}>
          <ul className="list-disc pl-5 text-lg">
            {todos.map((todo) => (
              <li key={todo.id}>{todo.words}</li>
            ))}
          </ul>
        </Part>
      )}
      <ul className="mt-2 border-t border-base-300">
        {open.map((id) => (
          <StationLine key={id} id={id} look={looked.get(id) ?? null} onGo={() => onGo(id)} />
        ))}
      </ul>
      {mayEnter && (
        <>
          <Words label={t("aboutWalk")} value={note} most={4000} onChange={setNote} />
          <Big
            rank="main"
            className="min-h-16 w-full"
            onClick={() =>
              void enter(
                { kind: "walkEnd", walkId: walk.id, note: note.trim() },
                site.file.site.name,
                `walk ${walk.id} *`,
              )
            }
          >
            {t("ended")}
          </Big>
        </>
      )}
      <Big rank="quiet" className="mt-2 w-full" onClick={() => onGo("list")}>
        {t("list")}
      </Big>
    </div>
  );
}
