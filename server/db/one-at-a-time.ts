import type pg from "pg";

export type Ask = (query: string, values?: unknown[]) => Promise<pg.QueryResult>;

/** Questions to one connection, each asked when the one before is answered; one that fails does not keep the next from being asked. */
export function oneAtATime(client: Pick<pg.Client, "query">, connected: Promise<unknown>): Ask {
  let last = connected;
  return (query, values) => {
    const answer = last.then(
      () => client.query(query, values),
      () => client.query(query, values),
    );
    last = answer;
    answer.catch(() => {});
    return answer;
  };
}
