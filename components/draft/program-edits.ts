import { produce } from "immer";
import { freshId } from "@/core/site-file/fresh-id";
import { WEEKDAYS } from "@/core/dates/wall-time";
import type { Program, SiteFile } from "@/core/site-file/schema";

export function addProgram(file: SiteFile): { file: SiteFile; id: string } {
  const id = freshId(file, "program");
  const controllerId = file.controllers[0]?.id as string;
  return {
    id,
    file: {
      ...file,
      programs: [
        ...file.programs,
        {
          id,
          name: `Program ${file.programs.length + 1}`,
          controllerId,
          starts: ["22:00"],
          days: { type: "weekdays", days: [...WEEKDAYS] },
          runs: [],
        },
      ],
    },
  };
}

export function removeProgram(id: string) {
  return (file: SiteFile): SiteFile => ({ ...file, programs: file.programs.filter((p) => p.id !== id) });
}

/** Minutes of a station in a program; undefined takes it out. */
export function setMinutes(programId: string, stationId: string, minutes: number | undefined) {
  return produce((file: SiteFile): void => {
    const program = file.programs.find((p) => p.id === programId);
    if (!program) return;
    const run = program.runs.find((r) => r.stationId === stationId);
    if (minutes === undefined) program.runs = program.runs.filter((r) => r !== run);
    else if (run) run.minutes = minutes;
    else program.runs.push({ stationId, minutes });
  });
}

/** Puts a station at another place of the order. */
export function placeRun(programId: string, stationId: string, to: number) {
  return produce((file: SiteFile): void => {
    const runs = file.programs.find((p) => p.id === programId)?.runs ?? [];
    const from = runs.findIndex((r) => r.stationId === stationId);
    if (from >= 0) runs.splice(to, 0, ...runs.splice(from, 1));
  });
}

/** The same program once more, under another name; on another controller without its stations, which are not there. */
export function copyProgram(file: SiteFile, programId: string, controllerId: string): { file: SiteFile; id: string } {
  const id = freshId(file, "program");
  const source = file.programs.find((p) => p.id === programId);
  if (!source) return { file, id: programId };
  const names = new Set(file.programs.map((p) => p.name));
  let name = `${source.name} copy`;
  for (let n = 2; names.has(name); n++) name = `${source.name} copy ${n}`;
  const copy: Program = {
    ...structuredClone(source),
    id,
    name,
    controllerId,
    runs: controllerId === source.controllerId ? structuredClone(source.runs) : [],
  };
  const at = file.programs.indexOf(source) + 1;
  return { id, file: { ...file, programs: [...file.programs.slice(0, at), copy, ...file.programs.slice(at)] } };
}
