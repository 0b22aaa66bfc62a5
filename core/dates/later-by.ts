/** So many minutes later on the clock, around midnight. */
export function laterBy(hhmm: string, minutes: number): string {
  const at = (Number(hhmm.slice(0, 2)) * 60 + Number(hhmm.slice(3)) + minutes + 1440 * 2) % 1440;
  return `${String(Math.floor(at / 60)).padStart(2, "0")}:${String(at % 60).padStart(2, "0")}`;
}
