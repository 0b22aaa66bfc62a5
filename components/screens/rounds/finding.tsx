"use client";
import { useEffect, useRef, useState } from "react";
import { useRoundsChoices } from "@/components/data/use-rounds";
import { Input, Select } from "@/components/kit/inputs";
import type { RoundsChoice, RoundsQuery } from "@/contracts/rounds";

/** After the last key, ms: the server is asked once for a word, not for every letter. */
const PAUSE_MS = 250;

const ONLY: [RoundsQuery["only"], string][] = [
  ["all", "all sites"],
  ["needs", "need someone today"],
  ["alarms", "with open alarms"],
  ["lockedOut", "with something locked out"],
  ["hold", "off"],
  ["short", "short tonight"],
  ["errors", "with errors in their settings"],
  ["nights", "whose nights say something"],
  ["silent", "silent"],
  ["controllers", "whose controllers hold something else"],
  ["overdue", "overdue"],
  ["overBudget", "over or near their budget"],
  ["notLearned", "not all learned"],
  ["todo", "where something is to do"],
  ["off", "with a controller or program off"],
  ["idle", "where nothing waters"],
  ["archived", "archived"],
];
const WITHIN_WORDS: Record<RoundsChoice["kind"], string> = {
  client: "client",
  area: "area",
  crew: "crew",
  kind: "kind of controller",
  source: "water",
};

/** What the sites are found by. Each change asks the server anew. */
export function Finding({
  query,
  within,
  onFind,
}: {
  query: RoundsQuery;
  /** What of a group or kind is chosen, as the address has it. */
  within: string;
  onFind: (changes: Record<string, string>) => void;
}) {
  const choices = useRoundsChoices();
  const [typed, setTyped] = useState(query.find);
  const pause = useRef<ReturnType<typeof setTimeout> | null>(null);
  useEffect(() => setTyped(query.find), [query.find]);
  useEffect(() => () => clearTimeout(pause.current ?? undefined), []);
  return (
    <>
      <Input
        className="w-44"
        value={typed}
        aria-label="Find a site"
        placeholder="Name, client, area, crew"
        data-find
        onChange={(e) => {
          const { value } = e.target;
          setTyped(value);
          clearTimeout(pause.current ?? undefined);
          pause.current = setTimeout(() => onFind({ find: value }), PAUSE_MS);
        }}
      />
      {choices.length > 0 && (
        <Select className="w-44" value={within} aria-label="Of" onChange={(e) => onFind({ within: e.target.value })}>
          <option value="">of anybody, anywhere</option>
          {Object.entries(WITHIN_WORDS).map(([kind, words]) => {
            const of = choices.filter((c) => c.kind === kind);
            return of.length === 0 ? null : (
              <optgroup key={kind} label={words}>
                {of.map((c) => (
                  <option key={c.value} value={c.value}>
                    {c.name}
                  </option>
                ))}
              </optgroup>
            );
          })}
        </Select>
      )}
      <Select className="w-44" value={query.only} aria-label="Show" onChange={(e) => onFind({ only: e.target.value })}>
        {ONLY.map(([id, words]) => (
          <option key={id} value={id}>
            {words}
          </option>
        ))}
      </Select>
    </>
  );
}
