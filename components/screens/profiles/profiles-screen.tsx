"use client";
import { Scroller } from "@/components/kit/scroller";
import { Mark, Problem } from "@/components/kit/notice";
import { Table } from "@/components/kit/table";
import { Button } from "@/components/kit/button";
import { useState } from "react";
import { NumberField, TextField, TickField } from "@/components/kit/fields";
import { PageHead } from "@/components/frame/page-head";
import { useProfiles } from "@/components/data/use-profiles";
import { DAY_RULES, DAY_TYPES } from "@/core/dates/day-rules";
import { INVENTED, type KeptProfile, type Profile } from "@/core/profiles/profile";
import { showNumber } from "@/core/units/units";

const NUMBERS: [keyof Profile, string, string, number, number, boolean][] = [
  ["programs", "Programs", "", 1, 10_000, true],
  ["startsPerProgram", "Starts a program", "", 1, 10_000, true],
  ["stations", "Stations", "", 1, 10_000, true],
  ["atOnce", "Stations at once", "", 1, 10_000, true],
  ["minuteStep", "Steps of run time", "min", 0.01, 60, false],
  ["percentStep", "Steps of percent", "%", 0.1, 100, false],
  ["percentMax", "Largest percent", "%", 1, 1000, false],
  ["delayStepS", "Steps of delay", "s", 1, 3600, true],
  ["delayMaxS", "Longest delay", "s", 0, 86_400, true],
];
/** Day rules by the ability that they need of a controller. */
function dayAbilities(): [keyof Profile, string][] {
  const found = new Map<keyof Profile, string[]>();
  for (const type of DAY_TYPES) {
    const { ability, label } = DAY_RULES[type];
    if (ability !== null) found.set(ability, [...(found.get(ability) ?? []), label]);
  }
  return [...found].map(([ability, labels]) => [ability, labels.join(" and ")]);
}
const ABILITIES: [keyof Profile, string][] = [
  ["cycleAndSoak", "cycle and soak"],
  ["windows", "water windows"],
  ...dayAbilities(),
  ["flowLimits", "flow limits"],
];

/** Ranges that it takes; an empty end is open. */
const RANGES: [from: keyof Profile, to: keyof Profile, label: string, unit: string, most: number][] = [
  ["limitFromPercent", "limitToPercent", "Limits", "%", 1000],
  ["persistenceFromS", "persistenceToS", "Persistence", "s", 86_400],
];
const rangeWords = (p: Profile): string =>
  p.flowLimits
    ? RANGES.flatMap(([from, to, , unit]) =>
        p[from] === undefined && p[to] === undefined ? [] : [`${p[from] ?? 0} to ${p[to] ?? "any"} ${unit}`],
      ).join(", ") || "any"
    : "none";

const can = (p: Profile): string =>
  ABILITIES.filter(([key]) => p[key])
    .map(([, words]) => words)
    .join(", ") || "none of these";

/** Kinds of controller in the organisation's own words: what each can take, and in which steps. */
export function ProfilesScreen({ canEdit, who }: { canEdit: boolean; who: string }) {
  const { items, keep, drop, problem } = useProfiles();
  const { id: _, ...first } = INVENTED[1] as KeptProfile;
  const [draft, setDraft] = useState<Profile>({ ...first, name: "", note: "" });
  const put = (values: Partial<Profile>): void => setDraft({ ...draft, ...values });
  const crossed = RANGES.find(([from, to]) => Number(draft[from] ?? 0) > Number(draft[to] ?? Infinity))?.[2];
  return (
    <>
      <PageHead title="Kinds of controller" who={who} />
      <main className="px-4 pb-6 max-w-6xl">
        <p className="max-w-prose mb-3">
          Describe each kind of controller you work with, from its own sheet. A site's controller names its kind on
          Waterworks; its setup sheet is then rounded to what it can take, with every difference and the night that
          really follows.
        </p>
        {problem && (
          <p role="alert" className="text-error font-semibold">
            <Mark tone="alarm" /> {problem}
          </p>
        )}
        <Scroller>
          <Table className="mb-6" aria-label="Kinds of controller">
            <thead>
              <tr>
                <th>Kind</th>
                <th className="text-right">Programs × starts</th>
                <th className="text-right">Stations</th>
                <th className="text-right">At once</th>
                <th className="text-right">Steps</th>
                <th className="text-right">Percent</th>
                <th className="text-right">Delay</th>
                <th>Limits, persistence</th>
                <th className="min-w-64">Can</th>
                <th className="min-w-36">Note</th>
                {canEdit && <th>Change</th>}
              </tr>
            </thead>
            <tbody>
              {[...items, ...INVENTED].map((p) => (
                <tr key={p.id}>
                  <td className="font-semibold">{p.name}</td>
                  <td className="text-right whitespace-nowrap">
                    {p.programs} × {p.startsPerProgram}
                  </td>
                  <td className="text-right">{p.stations}</td>
                  <td className="text-right">{p.atOnce}</td>
                  <td className="text-right whitespace-nowrap">
                    {p.minuteStep < 0.05 ? "seconds" : `${showNumber(p.minuteStep, 2)} min`}
                  </td>
                  <td className="text-right whitespace-nowrap">
                    {showNumber(p.percentStep, 1)} to {showNumber(p.percentMax)} %
                  </td>
                  <td className="text-right whitespace-nowrap">
                    {p.delayStepS} to {p.delayMaxS} s
                  </td>
                  <td className="text-sm">{rangeWords(p)}</td>
                  <td className="text-sm">{can(p)}</td>
                  <td className="text-sm">{p.note}</td>
                  {canEdit && (
                    <td className="whitespace-nowrap">
                      <Button
                        rank="quiet"
                        aria-label={`Begin from ${p.name}`}
                        onClick={() => {
                          const { id: _id, keptAt: _at, ...rest } = p;
                          setDraft(INVENTED.includes(p) ? { ...rest, name: "", note: "" } : rest);
                        }}
                      >
                        {INVENTED.includes(p) ? "Begin from it" : "Edit"}
                      </Button>
                      {!INVENTED.includes(p) && (
                        <Button rank="quiet" aria-label={`Forget ${p.name}`} onClick={() => drop(p.id)}>
                          Forget
                        </Button>
                      )}
                    </td>
                  )}
                </tr>
              ))}
            </tbody>
          </Table>
        </Scroller>
        {canEdit && (
          <section aria-label="Describe a kind">
            <h2 className="text-xl border-b-2 border-base-content mb-2">Describe a kind</h2>
            <div className="grid grid-cols-2 md:grid-cols-5 gap-3 items-end">
              <TextField label="Its name among you" value={draft.name} onCommit={(v) => put({ name: v })} />
              <TextField label="Note" value={draft.note} onCommit={(v) => put({ note: v })} />
              {NUMBERS.map(([key, label, unit, min, max, whole]) => (
                <NumberField
                  key={key}
                  label={label}
                  unit={unit || undefined}
                  value={Number((draft[key] as number).toFixed(4))}
                  min={min}
                  max={max}
                  whole={whole}
                  required
                  onCommit={(v) => put({ [key]: v ?? draft[key] } as Partial<Profile>)}
                />
              ))}
            </div>
            {draft.flowLimits && (
              <fieldset className="mt-2 grid grid-cols-2 gap-3 md:grid-cols-5">
                <legend className="mb-1 text-sm text-faint">What limits it takes; empty: any</legend>
                {RANGES.flatMap(([from, to, label, unit, most]) =>
                  [from, to].map((key) => (
                    <NumberField
                      key={key}
                      label={`${label} ${key === from ? "from" : "to"}`}
                      unit={unit}
                      value={draft[key] as number | undefined}
                      min={key === from ? 0 : 1}
                      max={most}
                      whole={unit === "s"}
                      onCommit={(v) => put({ [key]: v } as Partial<Profile>)}
                    />
                  )),
                )}
              </fieldset>
            )}
            <div className="flex flex-wrap gap-x-5 my-2">
              <span className="text-faint self-center">It can:</span>
              {ABILITIES.map(([key, words]) => (
                <TickField
                  key={key}
                  label={words}
                  checked={draft[key] as boolean}
                  onCommit={(v) => put({ [key]: v } as Partial<Profile>)}
                />
              ))}
            </div>
            {crossed && <Problem className="mb-2">{crossed} ends before it begins: give a larger “to”.</Problem>}
            <Button
              rank="main"
              disabled={draft.name.trim() === "" || crossed !== undefined}
              onClick={async () => {
                if (await keep(draft)) put({ name: "", note: "" });
              }}
            >
              Keep this kind
            </Button>
            {draft.name.trim() === "" && (
              <span className="text-sm text-faint ml-2">
                Give it a name first; one that is there already takes the new description.
              </span>
            )}
          </section>
        )}
      </main>
    </>
  );
}
