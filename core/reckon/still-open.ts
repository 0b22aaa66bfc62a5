import type { Finding } from "./findings.ts";

/** What has grown by so much since it was answered is asked about again. */
const GROWN = 1.5;

/** What was answered to a finding, and how large it was then, L/min. */
export type AnsweredFinding = { findingId: string; changeLpm: number };

export function hasGrown(finding: Pick<Finding, "changeLpm">, answer: AnsweredFinding): boolean {
  return Math.abs(finding.changeLpm) > GROWN * Math.abs(answer.changeLpm);
}

/** Whether it goes on and waits for somebody: nobody answered it, or it has grown much since. */
export function isOpen(
  finding: Pick<Finding, "id" | "until" | "changeLpm">,
  answers: readonly AnsweredFinding[],
): boolean {
  if (finding.until !== null) return false;
  const answer = answers.find((a) => a.findingId === finding.id);
  return answer === undefined || hasGrown(finding, answer);
}
