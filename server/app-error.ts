import { ZodError } from "zod";
import type { FileProblem } from "../core/site-file/parse-site.ts";

/** Every way a request can fail, and the HTTP status that says so. Nothing else reaches a client: no stack, no SQL. */
const STATUS = {
  badRequest: 400,
  badFile: 422,
  notSignedIn: 401,
  wrongPassword: 401,
  codeNeeded: 401,
  wrongCode: 401,
  notAllowed: 403,
  notFound: 404,
  staleVersion: 409,
  conflict: 409,
  tooLarge: 413,
  tooManyTries: 429,
  busy: 503,
  databaseBusy: 503,
  unavailable: 503,
  internal: 500,
} as const;
export type ErrorCode = keyof typeof STATUS;

export class AppError extends Error {
  readonly code: ErrorCode;
  /** Facts for the caller: where in the file, what the other writer changed. */
  readonly details: Record<string, unknown>;
  constructor(code: ErrorCode, message: string, details: Record<string, unknown> = {}) {
    super(message);
    this.code = code;
    this.details = details;
  }
  get status(): number {
    return STATUS[this.code];
  }
}

export function badFile(problems: FileProblem[]): AppError {
  const first = problems[0];
  const more = problems.length > 1 ? ` (${problems.length - 1} more)` : "";
  return new AppError("badFile", `${first?.message ?? "The file is not right."}${more}`, {
    problems: problems.slice(0, 50),
  });
}

/** PostgreSQL: no such row, out of a column's range, no such date, or a text that it cannot keep (NUL, or no UTF-8). */
const DOES_NOT_FIT = new Set(["23503", "23514", "22P02", "22003", "22007", "22008", "22021", "22P05"]);
/** Deadlock or conflict, too many connections, being stopped or started, or not there at all. */
const DATABASE_AWAY = new Set([
  "40001",
  "40P01",
  "53300",
  "57P01",
  "57P02",
  "57P03",
  "ECONNREFUSED",
  "ECONNRESET",
  "EPIPE",
]);
type DatabaseError = { code?: string; constraint?: string; name?: string; message?: string };

/** What pg and Knex say of a connection that broke, or that was not to be had in time, bears no code. */
const isAway = ({ code, name, message }: DatabaseError): boolean =>
  (code !== undefined && (DATABASE_AWAY.has(code) || code.startsWith("08"))) ||
  name === "KnexTimeoutError" ||
  /^(Connection terminated|Client has encountered a connection error)/.test(message ?? "");

/** Unknown failures become one AppError; PostgreSQL's own codes are read here and nowhere else. */
export function normalise(error: unknown): AppError {
  if (error instanceof AppError) return error;
  if (error instanceof ZodError) {
    const issue = error.issues[0];
    return new AppError(
      "badRequest",
      `The request is not right at ${issue?.path.join(".") || "its top"}: ${issue?.message ?? ""}`,
      { path: issue?.path.join(".") },
    );
  }
  const code = (error as DatabaseError | null)?.code;
  if (code === "23505")
    return new AppError("conflict", "That is already there; it was not added twice.", {
      constraint: (error as DatabaseError).constraint,
    });
  if (code !== undefined && DOES_NOT_FIT.has(code))
    return new AppError("badRequest", "A value in the request does not fit where it belongs.");
  if (error instanceof Error && isAway(error))
    return new AppError("databaseBusy", "The database is busy. Nothing was saved; try again.");
  return new AppError(
    "internal",
    "Something went wrong on the server. Nothing was saved; it has been noted in the server's log.",
  );
}
