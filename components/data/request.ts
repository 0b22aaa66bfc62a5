/** A refused request: the server's code and words, with what it sent along. */
export class RequestRefused extends Error {
  readonly code: string;
  readonly details: Record<string, unknown>;
  constructor(code: string, message: string, details: Record<string, unknown>) {
    super(message);
    this.code = code;
    this.details = details;
  }
}

/** A value of the server as it comes over the wire: instants are text. */
export type Wire<T> = T extends Date
  ? string
  : T extends (infer U)[]
    ? Wire<U>[]
    : T extends object
      ? { [K in keyof T]: Wire<T[K]> }
      : T;

/**
 * @param body a value, as JSON; text that is JSON already; or a file, as it is
 * @param once a key for one intention of the person's: sent twice under the same key it is done once
 */
export async function request<T>(
  method: "GET" | "POST" | "PATCH" | "DELETE",
  path: string,
  body?: unknown,
  once?: string,
): Promise<T> {
  let response: Response;
  try {
    response = await fetch(path, {
      method,
      ...(body === undefined
        ? {}
        : {
            body: typeof body === "string" || body instanceof Blob ? body : JSON.stringify(body),
            headers: {
              "content-type": body instanceof Blob ? "application/octet-stream" : "application/json",
              ...(once ? { "idempotency-key": once } : {}),
            },
          }),
    });
  } catch {
    throw new RequestRefused(
      "unreachable",
      "The server cannot be reached. What you entered is still here; try again.",
      {},
    );
  }
  const answer = (await response.json().catch(() => null)) as { error?: { code: string; message: string } } | null;
  if (response.ok) return answer as T;
  const { code = "internal", message = "Something went wrong on the server.", ...details } = answer?.error ?? {};
  throw new RequestRefused(code, message, details);
}
