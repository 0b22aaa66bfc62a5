"use client";
import { useTranslations } from "next-intl";
import { ChoiceField } from "@/components/kit/fields";
import { WALK_PROBLEMS, type WalkProblem } from "@/contracts/walks";
import { addDays, localDate } from "@/core/dates/wall-time";
import { Big, Choices, Photos, Words } from "../../parts";
import { useSiteHere } from "../../site-here";

export type ProblemTyped = {
  problem: WalkProblem | null;
  note: string;
  photoIds: string[];
  ownerId: string | null;
  due: string | null;
};
export const NOTHING_TYPED: ProblemTyped = { problem: null, note: "", photoIds: [], ownerId: null, due: null };
const NOBODY = "";

/** What is wrong, by a press; with note, photographs, and who sees to it. */
export function ProblemForm({
  typed,
  onType,
  onKeep,
  onLeave,
}: {
  typed: ProblemTyped;
  onType: (typed: ProblemTyped) => void;
  onKeep: () => void;
  onLeave: () => void;
}) {
  const t = useTranslations("walk");
  const { site } = useSiteHere();
  const today = localDate(site.file.site.timeZone, Math.floor(Date.now() / 1000));
  const days = [
    ["", t("dueNone")],
    [today, t("dueToday")],
    [addDays(today, 7), t("dueWeek")],
  ] as const;
  return (
    <div className="mt-2">
      <Choices
        label={t("what")}
        at={typed.problem}
        options={WALK_PROBLEMS.map((p) => [p, t(p)] as const)}
        onChoose={(problem) => onType({ ...typed, problem })}
      />
      <Words label={t("note")} value={typed.note} most={1000} onChange={(note) => onType({ ...typed, note })} />
      <Photos name={t("photoName")} ids={typed.photoIds} onChange={(photoIds) => onType({ ...typed, photoIds })} />
      <ChoiceField
        label={t("owner")}
        value={typed.ownerId ?? NOBODY}
        options={[[NOBODY, t("nobody")], ...site.people.map((p) => [p.id, p.name] as const)]}
        onCommit={(id) => onType({ ...typed, ownerId: id === NOBODY ? null : id })}
      />
      <Choices
        label={t("due")}
        columns={3}
        at={typed.due ?? ""}
        options={days}
        onChoose={(due) => onType({ ...typed, due: due === "" ? null : due })}
      />
      <div className="mt-3 grid grid-cols-2 gap-2.5">
        <Big rank="main" className="col-span-2 min-h-16" disabled={typed.problem === null} onClick={onKeep}>
          {t("keep")}
        </Big>
        <Big className="col-span-2" onClick={onLeave}>
          {t("leave")}
        </Big>
      </div>
    </div>
  );
}
