"use client";
import { useTranslations } from "next-intl";
import { useMemo, useState } from "react";
import type { VisitView } from "@/contracts/visits";
import { dutySubjects } from "@/core/visits/duties";
import { Big, Careful, Part, Words } from "../../parts";
import { useSiteHere } from "../../site-here";
import { useKept } from "../../use-kept";
import { VisitLine } from "./visit-line";
import { usualList } from "./visit-words";

/** The checklist of a visit, line by line. */
export function VisitJob() {
  const { site } = useSiteHere();
  const mine = site.visits.find((v) => v.mine && v.endedAt === null);
  return mine ? <OneVisit key={mine.id} visit={mine} /> : <BeginVisit />;
}

function useListName(): (list: { id: string; name: string }) => string {
  const t = useTranslations("visit");
  return ({ id, name }) => {
    const usual = usualList(id, name);
    return usual ? t(`lists.${usual}`) : name;
  };
}

function BeginVisit() {
  const t = useTranslations("visit");
  const nameOf = useListName();
  const { site, mayEnter, enter, conventions } = useSiteHere();
  return (
    <div className="grid gap-2.5 py-3">
      <h2 className="text-lg">{t("which")}</h2>
      {mayEnter &&
        site.setup.checklists.map((c) => (
          <Big
            key={c.id}
            className="min-h-16"
            onClick={() =>
              void enter({ kind: "visitBegin", visitId: crypto.randomUUID(), checklistId: c.id }, nameOf(c))
            }
          >
            {t("begin", { name: nameOf(c) })}
          </Big>
        ))}
      {site.visits.length > 0 && (
        <Part title={t("past")}>
          <ul>
            {site.visits.map((v) => (
              <li key={v.id} className="border-b border-base-300 py-2">
                {t("pastWords", {
                  name: nameOf({ id: v.checklistId, name: v.name }),
                  moment: conventions.momentAt(v.begunAt),
                  who: v.by,
                })}
              </li>
            ))}
          </ul>
        </Part>
      )}
    </div>
  );
}

function OneVisit({ visit }: { visit: VisitView }) {
  const t = useTranslations("visit");
  const nameOf = useListName();
  const { site } = useSiteHere();
  const subjects = useMemo(() => dutySubjects(site.file), [site.file]);
  const left = visit.lines.filter((l) => !visit.looked.some((k) => k.lineId === l.id)).length;
  const name = nameOf({ id: visit.checklistId, name: visit.name });
  return (
    <section aria-label={name} className="py-2">
      <p className="flex items-baseline justify-between gap-3" role="status">
        <span className="text-xl font-semibold">{name}</span>
        <span className="text-faint">{t("state", { left })}</span>
      </p>
      {visit.checklistId === "autumn" && <Careful>{t("air")}</Careful>}
      <ul>
        {visit.lines.map((line) => (
          <VisitLine
            key={line.id}
            visitId={visit.id}
            line={line}
            look={visit.looked.find((l) => l.lineId === line.id) ?? null}
            subjects={subjects.filter((s) => s.duty === line.duty)}
          />
        ))}
      </ul>
      <EndVisit visit={visit} left={left} name={name} />
    </section>
  );
}

function EndVisit({ visit, left, name }: { visit: VisitView; left: number; name: string }) {
  const t = useTranslations("visit");
  const { enter, mayEnter } = useSiteHere();
  const draft = `visit ${visit.id} *`;
  const [note, setNote] = useKept(`visit ${visit.id} note`, visit.note);
  const [asked, setAsked] = useState(false);
  if (!mayEnter) return null;
  const end = (): void => void enter({ kind: "visitEnd", visitId: visit.id, note: note.trim() }, name, draft);
  return (
    <>
      <Words label={t("about")} value={note} most={4000} onChange={setNote} />
      {asked && (
        <p role="alert" className="py-1">
          {t("leftLines", { count: left })}
        </p>
      )}
      <Big rank="main" className="min-h-16 w-full" onClick={() => (left > 0 && !asked ? setAsked(true) : end())}>
        {t("end")}
      </Big>
    </>
  );
}
