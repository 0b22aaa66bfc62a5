"use client";
import {
  type Announcements,
  closestCenter,
  DndContext,
  type DragEndEvent,
  KeyboardSensor,
  PointerSensor,
  useSensor,
  useSensors,
} from "@dnd-kit/core";
import {
  SortableContext,
  sortableKeyboardCoordinates,
  useSortable,
  verticalListSortingStrategy,
} from "@dnd-kit/sortable";
import { cycleWords } from "@/components/words/cycle-words";
import { CSS } from "@dnd-kit/utilities";
import { GripVertical } from "lucide-react";
import { useState } from "react";
import { placeRun, setMinutes } from "@/components/draft/program-edits";
import { useWorkspace } from "@/components/draft/site-draft";
import { Button } from "@/components/kit/button";
import { classes } from "@/components/kit/classes";
import { useConventions } from "@/components/kit/conventions";
import { NumberField } from "@/components/kit/fields";
import { Table } from "@/components/kit/table";
import { isDue } from "@/core/calendar/due";
import { adjustedSeconds, cycleAndSoak } from "@/core/calendar/run-time";
import { addDays } from "@/core/dates/wall-time";
import { expectedFlow } from "@/core/site-file/expected-flow";
import type { Program, Station } from "@/core/site-file/schema";
import { startsOn } from "@/core/site-file/starts";
import { showNumber } from "@/core/units/units";
import { YearWater } from "./year-water";

const HOW_TO_MOVE = {
  draggable: "Space takes the station up, the arrows move it, Space lays it down, Escape leaves it where it was.",
};
/** What readers hear of a station on its way. */
function told(stations: readonly Station[]): Announcements {
  const name = (id: unknown): string => `Station ${stations.find((s) => s.id === id)?.number ?? ""}`;
  const place = (over: { id: unknown } | null): string =>
    over ? `at ${stations.findIndex((s) => s.id === over.id) + 1} of ${stations.length}` : "outside the list";
  return {
    onDragStart: ({ active }) => `${name(active.id)} taken up.`,
    onDragOver: ({ active, over }) => `${name(active.id)} ${place(over)}.`,
    onDragEnd: ({ active, over }) => `${name(active.id)} laid down ${place(over)}.`,
    onDragCancel: ({ active }) => `${name(active.id)} left where it was.`,
  };
}

const clock = (s: number): string => `${Math.floor(s / 60)}:${String(s % 60).padStart(2, "0")}`;

/** Stations × minutes of this program, with what each adds up to. Rows are dragged into their order, by hand or by keyboard. */
export function RunMatrix({ program }: { program: Program }) {
  const { draft, edit, canEdit } = useWorkspace("draft", "edit", "canEdit");
  const sensors = useSensors(
    useSensor(PointerSensor, { activationConstraint: { distance: 4 } }),
    useSensor(KeyboardSensor, { coordinateGetter: sortableKeyboardCoordinates }),
  );
  const inIt = program.runs.flatMap((r) => draft.stations.find((s) => s.id === r.stationId) ?? []);
  const chosen = new Set(program.runs.map((r) => r.stationId));
  const out = draft.stations.filter((s) => s.controllerId === program.controllerId && !chosen.has(s.id));
  const drop = ({ active, over }: DragEndEvent): void => {
    const to = program.runs.findIndex((r) => r.stationId === over?.id);
    if (over && active.id !== over.id && to >= 0) edit(placeRun(program.id, String(active.id), to));
  };
  return (
    <section aria-label={`Run times of ${program.name}`} className="min-w-0">
      <Totals program={program} />
      <DndContext
        id={`runs-${program.id}`}
        sensors={sensors}
        collisionDetection={closestCenter}
        accessibility={{ announcements: told(inIt), screenReaderInstructions: HOW_TO_MOVE }}
        onDragEnd={drop}
      >
        <Table aria-label="Run times">
          <thead>
            <tr>
              <th>Order</th>
              <th>Station</th>
              <th className="text-right">Minutes</th>
              <th className="text-right">Runs, min:s</th>
              <th className="max-2xl:hidden">Cycles</th>
              <th className="max-2xl:hidden">Also in</th>
            </tr>
          </thead>
          <SortableContext items={inIt.map((s) => s.id)} strategy={verticalListSortingStrategy} disabled={!canEdit}>
            <tbody>
              {inIt.map((s, place) => (
                <RunRow key={s.id} program={program} station={s} place={place} />
              ))}
            </tbody>
          </SortableContext>
          {out.length > 0 && (
            <tbody>
              {out.map((s) => (
                <tr key={s.id}>
                  <td className="text-faint">–</td>
                  <td className="text-faint">
                    {s.number} {s.name}
                  </td>
                  <td className="w-24">
                    <Minutes program={program} station={s} />
                  </td>
                  <td />
                  <td className="max-2xl:hidden" />
                  <td className="text-faint max-2xl:hidden">
                    <AlsoIn program={program} station={s} />
                  </td>
                </tr>
              ))}
            </tbody>
          )}
        </Table>
      </DndContext>
      {canEdit && out.length > 0 && <AddAll program={program} stations={out} />}
    </section>
  );
}

function Minutes({ program, station }: { program: Program; station: Station }) {
  const { edit, canEdit } = useWorkspace("edit", "canEdit");
  return (
    <NumberField
      hideLabel
      label={`Minutes of station ${station.number}`}
      value={program.runs.find((r) => r.stationId === station.id)?.minutes}
      min={0}
      max={1440}
      disabled={!canEdit}
      placeholder="out"
      onCommit={(v) => edit(setMinutes(program.id, station.id, v))}
    />
  );
}

function AlsoIn({ program, station }: { program: Program; station: Station }) {
  const { draft } = useWorkspace("draft");
  return draft.programs
    .filter((p) => p.id !== program.id && p.runs.some((r) => r.stationId === station.id && r.minutes > 0))
    .map((p) => p.name)
    .join(", ");
}

function RunRow({ program, station: s, place }: { program: Program; station: Station; place: number }) {
  const { draft, date, canEdit } = useWorkspace("draft", "date", "canEdit");
  const { attributes, listeners, setNodeRef, setActivatorNodeRef, transform, transition, isDragging } = useSortable({
    id: s.id,
  });
  const minutes = program.runs.find((r) => r.stationId === s.id)?.minutes ?? 0;
  const { cycle, soakS } = cycleAndSoak(s, program);
  return (
    <tr
      ref={setNodeRef}
      style={{ transform: CSS.Translate.toString(transform), transition }}
      className={classes(isDragging && "relative z-10 bg-base-200")}
    >
      <td className="whitespace-nowrap">
        <span className="inline-flex items-center gap-1">
          {canEdit && (
            <Button
              rank="bare"
              ref={setActivatorNodeRef}
              className="cursor-grab p-1 text-faint"
              {...attributes}
              {...listeners}
              aria-label={`Move station ${s.number}`}
            >
              <GripVertical className="size-4" aria-hidden />
            </Button>
          )}
          {place + 1}
        </span>
      </td>
      <td>
        {s.number} {s.name}
      </td>
      <td className="w-24">
        <Minutes program={program} station={s} />
      </td>
      <td className="text-right">{clock(adjustedSeconds(draft, program, minutes, date))}</td>
      <td className="max-2xl:hidden">{cycle ? `${cycleWords(cycle)}, soak ${soakS / 60} min` : ""}</td>
      <td className="text-faint max-2xl:hidden">
        <AlsoIn program={program} station={s} />
      </td>
    </tr>
  );
}

function Totals({ program }: { program: Program }) {
  const { draft, date } = useWorkspace("draft", "date");
  const { quantity } = useConventions();
  const seconds = (minutes: number, on = date): number => adjustedSeconds(draft, program, minutes, on);
  const flow = new Map(draft.stations.map((s) => [s.id, expectedFlow(s)?.lpm ?? 0]));
  const litresOn = (on: string): number =>
    program.runs.reduce((sum, r) => sum + ((flow.get(r.stationId) ?? 0) * seconds(r.minutes, on)) / 60, 0);
  const totalS = program.runs.reduce((sum, r) => sum + seconds(r.minutes), 0);
  const starts = startsOn(program).length;
  const week = Array.from({ length: 7 }, (_, i) => addDays(date, i))
    .filter((d) => isDue(program, d))
    .reduce((sum, d) => sum + litresOn(d) * starts, 0);
  return (
    <div className="mb-2">
      <p>
        <strong>{showNumber(totalS / 60, 1)} station minutes</strong> and{" "}
        <strong>{quantity(litresOn(date), "volume")}</strong> a start; {starts} start{starts === 1 ? "" : "s"} a day;{" "}
        <strong>{quantity(week, "volume")}</strong> in the coming week.
      </p>
      <YearWater program={program} />
    </div>
  );
}

function AddAll({ program, stations }: { program: Program; stations: Station[] }) {
  const { edit } = useWorkspace("edit");
  const [minutes, setAll] = useState<number | undefined>(undefined);
  return (
    <div className="mt-2 flex flex-wrap items-end gap-2">
      <NumberField
        label="Minutes for all not yet in"
        className="w-40"
        unit="min"
        value={minutes}
        min={0}
        max={1440}
        onCommit={setAll}
      />
      <Button
        disabled={minutes === undefined}
        onClick={() => edit((f) => stations.reduce((file, s) => setMinutes(program.id, s.id, minutes)(file), f))}
      >
        Add {stations.length} station{stations.length === 1 ? "" : "s"}
      </Button>
    </div>
  );
}
