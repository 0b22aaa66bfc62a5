"use client";
import {
  DndContext,
  type DragEndEvent,
  DragOverlay,
  PointerSensor,
  useDraggable,
  useSensor,
  useSensors,
} from "@dnd-kit/core";
import { useState } from "react";
import { useWorkspace } from "@/components/draft/site-draft";
import { Button } from "@/components/kit/button";
import { FAULT_KINDS, type FaultKind, faultWords, needsOther } from "@/core/bench/faults/kinds";
import { faultSubjects } from "@/core/bench/faults/resolve";

function Chip({ kind, armed, onArm }: { kind: FaultKind; armed: boolean; onArm: () => void }) {
  const { setNodeRef, listeners, isDragging } = useDraggable({ id: kind });
  return (
    <Button
      ref={setNodeRef}
      rank={armed ? "main" : "plain"}
      className={isDragging ? "opacity-40" : "cursor-grab"}
      aria-pressed={armed}
      title="Drag it onto a ribbon; or press it, then a ribbon"
      onClick={onArm}
      {...listeners}
    >
      {faultWords(kind)}
    </Button>
  );
}

/**
 * Faults to drop on the night: dragged onto a ribbon, or chosen here and then the ribbon pressed (so it goes by keyboard too). What is dropped begins inside the run.
 *
 * @param onDrop a kind, and the key of the run it fell on
 */
export function FaultPalette({
  armed,
  onArm,
  onDrop,
  children,
}: {
  armed: FaultKind | null;
  onArm: (kind: FaultKind | null) => void;
  onDrop: (kind: FaultKind, runKey: string) => void;
  children: React.ReactNode;
}) {
  const { draft } = useWorkspace("draft");
  const [dragged, setDragged] = useState<FaultKind | null>(null);
  const sensors = useSensors(useSensor(PointerSensor, { activationConstraint: { distance: 4 } }));
  const kinds = FAULT_KINDS.filter((k) => !needsOther(k) && faultSubjects(draft, k).length > 0);
  const end = ({ active, activatorEvent, delta }: DragEndEvent): void => {
    setDragged(null);
    if (!(activatorEvent instanceof PointerEvent)) return;
    const under = document.elementsFromPoint(activatorEvent.clientX + delta.x, activatorEvent.clientY + delta.y);
    const run = under.map((e) => e.closest<HTMLElement>("[data-run]")?.dataset["run"]).find((key) => key !== undefined);
    if (run) onDrop(active.id as FaultKind, run);
  };
  return (
    <DndContext
      id="fault-palette"
      sensors={sensors}
      onDragStart={({ active }) => setDragged(active.id as FaultKind)}
      onDragCancel={() => setDragged(null)}
      onDragEnd={end}
    >
      <div role="group" aria-label="Faults to drop" className="mb-2 flex flex-wrap items-center gap-1">
        <span className="mr-1 text-faint">Drop on a ribbon:</span>
        {kinds.map((kind) => (
          <Chip key={kind} kind={kind} armed={armed === kind} onArm={() => onArm(armed === kind ? null : kind)} />
        ))}
      </div>
      {children}
      <DragOverlay dropAnimation={null}>
        {dragged && <span className="btn btn-neutral pointer-events-none">{faultWords(dragged)}</span>}
      </DragOverlay>
    </DndContext>
  );
}
