"use client";
import { CalendarPlus } from "lucide-react";
import { useMemo, useState } from "react";
import { useCalendar } from "@/components/data/use-visits";
import { isMonth, MonthStepper } from "@/components/frame/month-stepper";
import { PageHead } from "@/components/frame/page-head";
import { useScreenParam } from "@/components/frame/use-screen-param";
import { Button } from "@/components/kit/button";
import { useConventions } from "@/components/kit/conventions";
import { asIso } from "@/components/kit/dates";
import { Problem } from "@/components/kit/notice";
import { MultiSegments } from "@/components/kit/segments";
import { addDays, addMonths } from "@/core/dates/wall-time";
import { CALENDAR_KINDS, type CalendarEntry, type CalendarKind } from "@/core/visits/calendar";
import { AddressDialog } from "./address-dialog";
import { EntryLine, KIND_WORDS } from "./entry-line";
import { MonthGrid } from "./month-grid";

const kindsOf = (text: string): CalendarKind[] => CALENDAR_KINDS.filter((k) => text.split(" ").includes(k));

/** Visits, what is to do, what is due anew, and what the settings date, of every site, a month at a time. */
export function CalendarScreen({ who }: { who: string }) {
  const { day: dayName } = useConventions();
  const today = asIso(new Date());
  const [month, setMonth] = useScreenParam<string>("month", today.slice(0, 7), { fits: isMonth });
  const [shown, setShown] = useScreenParam<string>("kinds", CALENDAR_KINDS.join(" "), { add: false });
  const [day, setDay] = useState<string | null>(null);
  const [addressing, setAddressing] = useState(false);
  const first = `${month}-01`;
  // The weeks of a month reach into its neighbours.
  const { view, problem, makeAddress, endAddress } = useCalendar(addDays(first, -7), addDays(addMonths(first, 1), 13));
  const kinds = kindsOf(shown);
  const byDay = useMemo(() => {
    const by = new Map<string, CalendarEntry[]>();
    for (const e of view?.entries ?? [])
      if (kindsOf(shown).includes(e.what)) by.set(e.on, [...(by.get(e.on) ?? []), e]);
    return by;
  }, [view, shown]);
  const ofMonth = [...byDay].filter(([on]) => on.slice(0, 7) === month).sort(([a], [b]) => a.localeCompare(b));
  return (
    <>
      <PageHead
        title="Calendar"
        who={who}
        views={
          <MonthStepper
            month={month}
            today={today.slice(0, 7)}
            onMonth={(to) => {
              setMonth(to);
              setDay(null);
            }}
          />
        }
        tools={
          <>
            <MultiSegments
              label="What is shown"
              options={CALENDAR_KINDS.map((id) => ({ id, label: KIND_WORDS[id].many }))}
              on={kinds}
              onChange={(on) => setShown(on.length === 0 ? "none" : on.join(" "))}
            />
            <Button rank="quiet" icon={CalendarPlus} onClick={() => setAddressing(true)}>
              In another calendar…
            </Button>
          </>
        }
      />
      <main className="px-4 pb-8">
        {problem && <Problem>{problem}</Problem>}
        {!view && !problem && <p role="status">Reading the calendar…</p>}
        {view && (
          <>
            <div className="hidden sm:block">
              <MonthGrid month={month} today={today} byDay={byDay} day={day} onDay={setDay} />
              {day && (
                <section aria-labelledby="day" className="mt-5 max-w-4xl">
                  <h2 id="day" className="text-lg">
                    {dayName(day)}
                  </h2>
                  <DayList entries={byDay.get(day) ?? []} />
                </section>
              )}
            </div>
            <div className="sm:hidden">
              {ofMonth.length === 0 && <p>Nothing stands in this month.</p>}
              {ofMonth.map(([on, entries]) => (
                <section key={on} aria-label={dayName(on)} className="mb-4">
                  <h2 className="font-semibold">{dayName(on)}</h2>
                  <DayList entries={entries} />
                </section>
              ))}
            </div>
          </>
        )}
      </main>
      {addressing && (
        <AddressDialog
          madeAt={view?.madeAt ?? null}
          make={makeAddress}
          end={endAddress}
          onClose={() => setAddressing(false)}
        />
      )}
    </>
  );
}

function DayList({ entries }: { entries: readonly CalendarEntry[] }) {
  if (entries.length === 0) return <p className="text-faint">Nothing stands on this day.</p>;
  return (
    <ul>
      {entries.map((e) => (
        <li key={e.key} className="border-b border-base-300 py-1">
          <EntryLine entry={e} />
        </li>
      ))}
    </ul>
  );
}
