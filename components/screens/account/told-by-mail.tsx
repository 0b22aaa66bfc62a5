"use client";
import { Mail } from "lucide-react";
import { useState } from "react";
import { useGroups } from "@/components/data/use-groups";
import { useTelling } from "@/components/data/use-telling";
import { Letters } from "@/components/frame/letters";
import { Button } from "@/components/kit/button";
import { NumberField, TickField } from "@/components/kit/fields";
import { Problem } from "@/components/kit/notice";
import { TimeField } from "@/components/kit/time-field";
import { GROUP_KINDS } from "@/contracts/groups";
import type { TellingChoice, TellingView } from "@/contracts/telling";

/** Where nothing is chosen yet: alarms and what is overdue by day. */
const usual = (): TellingChoice => ({
  alarms: true,
  overdue: true,
  fromClock: "06:00",
  toClock: "20:00",
  morningClock: "06:30",
  escalateMin: null,
  timeZone: Intl.DateTimeFormat().resolvedOptions().timeZone,
  groups: [],
});
const NOTHING: Partial<TellingChoice> = { alarms: false, overdue: false, morningClock: null, escalateMin: null };

/** What one is told by mail, of which sites, at which hours; and what one was told lately. */
export function ToldByMail() {
  const { view, problem, choose, trial } = useTelling();
  if (!view) return problem ? <Problem>{problem}</Problem> : <p role="status">Looking up what you are told…</p>;
  const failed = choose.error ?? trial.error;
  return (
    <>
      {!view.mail && (
        <p className="mb-3 max-w-prose text-warning">
          No mail server is set up here, so nobody is written to. Whoever runs this Presa sets one; what you choose now
          holds from then on.
        </p>
      )}
      {view.choice ? (
        <Choice
          key={JSON.stringify(view.choice)}
          choice={view.choice}
          onChoose={choose.mutate}
          busy={choose.isPending}
        />
      ) : (
        <p className="mb-3">
          You are told nothing by mail.{" "}
          <Button onClick={() => choose.mutate(usual())} disabled={choose.isPending}>
            Choose what you are told
          </Button>
        </p>
      )}
      {failed && <Problem>{failed.message}</Problem>}
      <div className="mt-3 flex items-center gap-3">
        <Button icon={Mail} rank="quiet" disabled={!view.mail || trial.isPending} onClick={() => trial.mutate()}>
          Send me a letter to try
        </Button>
      </div>
      {view.letters.length > 0 && <Newest letters={view.letters} />}
    </>
  );
}

function Newest({ letters }: { letters: TellingView["letters"] }) {
  return (
    <details className="mt-2" open={letters.some((l) => l.problem !== null)}>
      <summary className="cursor-pointer">The newest letters to you, {letters.length}</summary>
      <Letters label="The newest letters to you" letters={letters} />
    </details>
  );
}

function Choice({
  choice,
  busy,
  onChoose,
}: {
  choice: TellingChoice;
  busy: boolean;
  onChoose: (choice: TellingChoice) => void;
}) {
  const [now, setNow] = useState(choice);
  const set = (changes: Partial<TellingChoice>): void => setNow({ ...now, ...changes });
  const changed = JSON.stringify(now) !== JSON.stringify(choice);
  return (
    <div className="grid max-w-3xl gap-2">
      <TickField label="new alarms" checked={now.alarms} onCommit={(alarms) => set({ alarms })} />
      <TickField label="what becomes overdue" checked={now.overdue} onCommit={(overdue) => set({ overdue })} />
      <div className="ml-8 flex flex-wrap items-end gap-3">
        <TimeField
          label="between"
          className="w-28"
          required
          value={now.fromClock}
          onCommit={(fromClock) => fromClock && set({ fromClock })}
        />
        <TimeField
          label="and"
          className="w-28"
          required
          value={now.toClock}
          onCommit={(toClock) => toClock && set({ toClock })}
        />
        <span className="pb-1 text-faint">
          {now.fromClock === now.toClock ? "all day" : "what comes at other hours waits until then"}, {now.timeZone}
        </span>
      </div>
      <div className="flex flex-wrap items-end gap-3">
        <TickField
          label="a summary in the morning"
          checked={now.morningClock !== null}
          onCommit={(on) => set({ morningClock: on ? "06:30" : null })}
        />
        {now.morningClock !== null && (
          <TimeField
            label="at"
            className="w-28"
            required
            value={now.morningClock}
            onCommit={(morningClock) => morningClock && set({ morningClock })}
          />
        )}
      </div>
      <div className="flex flex-wrap items-end gap-3">
        <TickField
          label="when nobody acknowledges an alarm, at any hour"
          checked={now.escalateMin !== null}
          onCommit={(on) => set({ escalateMin: on ? 30 : null })}
        />
        {now.escalateMin !== null && (
          <NumberField
            label="within"
            unit="min"
            className="w-32"
            value={now.escalateMin}
            min={1}
            max={1440}
            whole
            required
            onCommit={(escalateMin) => escalateMin !== undefined && set({ escalateMin })}
          />
        )}
      </div>
      <OfSites chosen={now.groups} onChoose={(groups) => set({ groups })} />
      <div className="flex gap-2">
        <Button rank="main" disabled={!changed || busy} onClick={() => onChoose(now)}>
          Keep
        </Button>
        <Button rank="quiet" disabled={busy} onClick={() => onChoose({ ...now, ...NOTHING })}>
          Tell me nothing
        </Button>
      </div>
    </div>
  );
}

/** Of which client's, area's or crew's sites; all where none is ticked. */
function OfSites({ chosen, onChoose }: { chosen: string[]; onChoose: (groups: string[]) => void }) {
  const { view } = useGroups();
  const groups = view?.groups ?? [];
  if (groups.length === 0) return null;
  return (
    <details open={chosen.length > 0}>
      <summary className="cursor-pointer">
        {chosen.length === 0 ? "of all sites that you see" : `of the sites of ${chosen.length} groups`}
      </summary>
      <div className="ml-8 grid gap-x-6 sm:grid-cols-3">
        {GROUP_KINDS.map((kind) => (
          <fieldset key={kind}>
            <legend className="text-xs text-faint">{kind}</legend>
            {groups
              .filter((g) => g.kind === kind)
              .map((g) => (
                <div key={g.id}>
                  <TickField
                    label={g.name}
                    checked={chosen.includes(g.id)}
                    onCommit={(on) => onChoose(on ? [...chosen, g.id] : chosen.filter((c) => c !== g.id))}
                  />
                </div>
              ))}
          </fieldset>
        ))}
      </div>
    </details>
  );
}
