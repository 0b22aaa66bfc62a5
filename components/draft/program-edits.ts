import { patched, type Patch } from "@/core/site-file/patch";
import { freshId } from "@/core/site-file/fresh-id";
import { WEEKDAYS } from "@/core/dates/wall-time";
import type { Program, SiteFile } from "@/core/site-file/schema";

export function patchProgram(id: string, values: Patch<Program>) {
  return (file: SiteFile): SiteFile => ({
    ...file,
    programs: file.programs.map((p) => (p.id === id ? patched(p, values) : p)),
  });
}

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
  return (file: SiteFile): SiteFile => ({
    ...file,
    programs: file.programs.map((p) => {
      if (p.id !== programId) return p;
      const there = p.runs.some((r) => r.stationId === stationId);
      if (minutes === undefined) return { ...p, runs: p.runs.filter((r) => r.stationId !== stationId) };
      return {
        ...p,
        runs: there
          ? p.runs.map((r) => (r.stationId === stationId ? { ...r, minutes } : r))
          : [...p.runs, { stationId, minutes }],
      };
    }),
  });
}

export function moveRun(programId: string, stationId: string, by: -1 | 1) {
  return (file: SiteFile): SiteFile => ({
    ...file,
    programs: file.programs.map((p) => {
      if (p.id !== programId) return p;
      const from = p.runs.findIndex((r) => r.stationId === stationId);
      const to = from + by;
      if (from < 0 || to < 0 || to >= p.runs.length) return p;
      const runs = [...p.runs];
      [runs[from], runs[to]] = [runs[to] as Program["runs"][number], runs[from] as Program["runs"][number]];
      return { ...p, runs };
    }),
  });
}
