import { randomUUID } from "node:crypto";
import { Agent, type IncomingHttpHeaders, request } from "node:http";
import { text } from "node:stream/consumers";

/** Against this machine only: a trial is no tool against others. */
export function loopback(base: string): string {
  const { hostname } = new URL(base);
  if (!["127.0.0.1", "localhost", "[::1]"].includes(hostname))
    throw new Error(`${base} is not on this machine; trials stay on loopback.`);
  return base.replace(/\/$/, "");
}

export type Answer = { status: number; ms: number; text: string; json: unknown; headers: IncomingHttpHeaders };

/** A person of an organisation, as a browser would ask in their name. */
export class Person {
  private cookie = "";
  private readonly agent = new Agent({ keepAlive: true });
  readonly base: string;

  constructor(base: string) {
    this.base = loopback(base);
  }

  static async signedIn(base: string, email: string, password: string): Promise<Person> {
    const person = new Person(base);
    const answer = await person.ask("POST", "/api/session", { email, password });
    if (answer.status !== 200) throw new Error(`${email} cannot sign in: ${answer.text}`);
    return person;
  }

  headers(more: Record<string, string> = {}): Record<string, string> {
    return { ...(this.cookie ? { cookie: this.cookie } : {}), ...more };
  }

  /** @param once the same key for the same intention */
  async ask(
    method: string,
    path: string,
    body?: unknown,
    more: Record<string, string> = {},
    signal?: AbortSignal,
  ): Promise<Answer> {
    const began = performance.now();
    const { status, text, headers } = await this.send(method, path, body, more, signal);
    for (const given of headers["set-cookie"] ?? [])
      if (/presa_session=[^;]/.test(given)) this.cookie = given.split(";")[0] as string;
    let json: unknown = null;
    try {
      json = JSON.parse(text);
    } catch {
      // A page.
    }
    return { status, ms: performance.now() - began, text, json, headers };
  }

  /** Over connections of its own: how long it takes is nobody else's doing. */
  private send(
    method: string,
    path: string,
    body: unknown,
    more: Record<string, string>,
    signal?: AbortSignal,
  ): Promise<{ status: number; text: string; headers: IncomingHttpHeaders }> {
    const payload = typeof body === "string" ? body : JSON.stringify(body);
    const headers = this.headers({
      ...(body === undefined
        ? {}
        : { "content-type": "application/json", "content-length": `${Buffer.byteLength(payload)}` }),
      ...more,
    });
    return new Promise((yes, no) => {
      const sent = request(`${this.base}${path}`, {
        method,
        headers,
        agent: this.agent,
        ...(signal ? { signal } : {}),
      });
      sent.on("response", (response) => {
        text(response).then(
          (said) => yes({ status: response.statusCode ?? 0, text: said, headers: response.headers }),
          no,
        );
      });
      // A connection that was kept too long is closed by the other end: the request never came there.
      sent.on("error", (error: NodeJS.ErrnoException) =>
        sent.reusedSocket && error.code === "ECONNRESET" ? yes(this.send(method, path, body, more, signal)) : no(error),
      );
      sent.end(body === undefined ? undefined : payload);
    });
  }

  /** The organisation's sites by their ids in the file. */
  async sites(): Promise<{ id: string; name: string }[]> {
    return ((await this.ask("GET", "/api/sites")).json as { sites: { id: string; name: string }[] }).sites;
  }

  /** A site of its own for a trial, from a site file whose id is made unlike any other. */
  async newSite(file: { site: object } & object): Promise<string> {
    const own = {
      ...file,
      site: { ...file.site, id: `trial-${randomUUID()}`, name: `Trial ${randomUUID().slice(0, 4)}` },
    };
    const answer = await this.ask("POST", "/api/sites", own);
    if (answer.status !== 200) throw new Error(`no site for the trial: ${answer.text}`);
    return (answer.json as { id: string }).id;
  }
}

/** The value below which so many of a hundred lie. */
export function percentile(values: number[], percent: number): number {
  const sorted = [...values].sort((a, b) => a - b);
  return sorted[Math.min(sorted.length - 1, Math.ceil((sorted.length * percent) / 100) - 1)] ?? 0;
}
