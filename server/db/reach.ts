import { AsyncLocalStorage } from "node:async_hooks";

/** How far a query sees: all of it, one organisation's rows, or nothing; "anyone": it asks only what everyone behind the fence may. */
export type Reach = "operator" | "nothing" | "anyone" | { organisationId: string; personId: string | null };

type Shared = { store: AsyncLocalStorage<Reach>; usual: Reach };
const global = globalThis as typeof globalThis & { presaReach?: Shared };
/** One for all bundles of a process. Until somebody is known, nothing is seen. */
const shared = (): Shared => {
  global.presaReach ??= { store: new AsyncLocalStorage(), usual: "nothing" };
  return global.presaReach;
};

export const reachNow = (): Reach => shared().store.getStore() ?? shared().usual;

/**
 * What is asked within sees this organisation's rows and no others (docs/decisions/0012-the-fence.md).
 *
 * @param personId somebody who sees some sites only: those and no others; null: all of the organisation's
 */
export function inOrganisation<T>(
  organisationId: string,
  work: () => Promise<T>,
  personId: string | null = null,
): Promise<T> {
  // Awaited within: a query is asked when it is waited for, not when it is written down.
  return shared().store.run({ organisationId, personId }, async () => await work());
}

/** For a question that answers alike whoever asks, behind the fence: whose a session is. */
export function asAnyone<T>(work: () => Promise<T>): Promise<T> {
  return shared().store.run("anyone", async () => await work());
}

/** For what belongs to no organisation: who signs in, and the processes that serve all. */
export function asOperator<T>(work: () => Promise<T>): Promise<T> {
  return shared().store.run("operator", async () => await work());
}

/** A process that serves all organisations: migrations, workers, and tests that look at what was written. */
export function thisProcessIsTheOperators(): void {
  shared().usual = "operator";
}
