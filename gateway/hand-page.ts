import { createServer, type IncomingMessage, type Server, type ServerResponse } from "node:http";
import { z } from "zod";
import { localIso } from "../core/dates/wall-time.ts";
import { daysWords } from "../core/dates/day-rules.ts";
import { startsOn } from "../core/site-file/starts.ts";
import { doByHand, handChange } from "./by-hand.ts";
import type { SiteGateway } from "./site-gateway.ts";

const MOST_BYTES = 100_000;

/**
 * A plain page on loopback at which one stands before the simulated controllers: what each holds, and what can be changed there. The same changes are taken as JSON, for the
 * command line. Asked from any other page, it does nothing.
 */
export function serveHandPage(sites: readonly SiteGateway[], port: number): Promise<Server> {
  const server = createServer((request, response) => {
    answer(sites, request, response).catch((error: Error) => {
      response.writeHead(400, { "content-type": "text/plain; charset=utf-8" });
      response.end(`${error.message}\n`);
    });
  });
  return new Promise((done, failed) => {
    server.once("error", failed);
    server.listen(port, "127.0.0.1", () => done(server));
  });
}

async function answer(
  sites: readonly SiteGateway[],
  request: IncomingMessage,
  response: ServerResponse,
): Promise<void> {
  const host = request.headers.host ?? "";
  const { origin } = request.headers;
  if (!/^(127\.0\.0\.1|localhost)(:\d+)?$/.test(host) || (origin !== undefined && origin !== `http://${host}`)) {
    response.writeHead(403).end();
    return;
  }
  const [, kind, id] = (request.url ?? "/").split("?")[0]?.split("/") ?? [];
  const site = kind === "site" ? sites.find((s) => s.siteId === decodeURIComponent(id ?? "")) : undefined;
  if (request.method === "POST" && site) {
    const text = await body(request);
    const json = request.headers["content-type"]?.startsWith("application/json") === true;
    const parsed = handChange.safeParse(json ? JSON.parse(text) : fromForm(new URLSearchParams(text)));
    if (!parsed.success) throw new Error(z.prettifyError(parsed.error));
    doByHand(site, parsed.data);
    if (json) response.writeHead(200, { "content-type": "application/json" }).end('{"done":true}\n');
    else response.writeHead(303, { location: `/site/${encodeURIComponent(site.siteId)}` }).end();
    return;
  }
  response.writeHead(site || kind === "" ? 200 : 404, {
    "content-type": "text/html; charset=utf-8",
    "content-security-policy": "default-src 'none'; style-src 'unsafe-inline'; form-action 'self'",
  });
  response.end(site ? sitePage(site) : listPage(sites));
}

async function body(request: IncomingMessage): Promise<string> {
  let text = "";
  for await (const chunk of request) {
    text += chunk;
    if (text.length > MOST_BYTES) throw new Error("That is too long.");
  }
  return text;
}

/** Fields of a form, as a change. */
function fromForm(form: URLSearchParams): unknown {
  const all = Object.fromEntries(form);
  const { minutes, percent, starts, on, ...rest } = all;
  return {
    ...rest,
    ...(minutes === undefined ? {} : { minutes: Number(minutes) }),
    ...(percent === undefined ? {} : { percent: Number(percent) }),
    ...(starts === undefined ? {} : { starts: starts.split(/[\s,]+/).filter(Boolean) }),
    ...(on === undefined ? {} : { on: on === "true" }),
  };
}

const esc = (text: string): string => text.replace(/[&<>"']/g, (c) => `&#${c.charCodeAt(0)};`);
const page = (title: string, inside: string): string => `<!doctype html>
<html lang="en"><meta charset="utf-8"><meta name="viewport" content="width=device-width"><title>${esc(title)}</title>
<style>body{font:16px/1.5 sans-serif;max-width:60rem;margin:1rem auto;padding:0 1rem;color:#111;background:#fff}
table{border-collapse:collapse}td,th{padding:.15rem .6rem .15rem 0;text-align:left;vertical-align:top}
form{display:inline}input{font:inherit;border:1px solid #555;padding:.1rem .3rem;width:7rem}button{font:inherit}h2{border-bottom:1px solid #111}</style>
<h1>${esc(title)}</h1>${inside}</html>
`;

function listPage(sites: readonly SiteGateway[]): string {
  const rows = sites.map(
    (s) =>
      `<tr><td><a href="/site/${encodeURIComponent(s.siteId)}">${esc(s.name)}</a></td><td>${s.held.held.length} controllers</td><td>${s.held.silent ? "silent" : ""}</td></tr>`,
  );
  return page(
    "Simulated controllers",
    `<p>What is done here is done at the controllers themselves, as someone standing before them would. Presa is not asked.</p><table>${rows.join("")}</table>`,
  );
}

function form(hidden: Record<string, string>, inside: string, button: string): string {
  const fields = Object.entries(hidden).map(
    ([name, value]) => `<input type="hidden" name="${name}" value="${esc(value)}">`,
  );
  return `<form method="post">${fields.join("")}${inside}<button>${esc(button)}</button></form>`;
}

function sitePage(gateway: SiteGateway): string {
  const { site, held, lockouts, open, silent, now } = gateway.held;
  const name = (id: string): string =>
    site.stations.find((s) => s.id === id)?.name ??
    [...site.pocs, ...site.mainlines].find((x) => x.id === id)?.name ??
    id;
  const parts = held.map((h) => {
    const { settings, controllerId } = h;
    const programs = settings.programs.map((p) => {
      const of = { controllerId, programId: p.id };
      const runs = p.runs.map(
        (r) =>
          `<tr><td>${esc(name(r.stationId))}</td><td>${form({ ...of, what: "minutes", stationId: r.stationId }, `<input name="minutes" inputmode="decimal" aria-label="Minutes of ${esc(name(r.stationId))}" value="${r.minutes}"> min `, "Set")}</td></tr>`,
      );
      return `<h3>${esc(p.name)}${p.enabled === false ? " (off)" : ""}</h3>
<p>${form({ ...of, what: "starts" }, `Starts <input name="starts" aria-label="Starts of ${esc(p.name)}" value="${esc(startsOn(p).join(" "))}"> `, "Set")}
 on ${esc(daysWords(p.days))}. ${form({ ...of, what: "enabled", on: String(p.enabled === false) }, "", p.enabled === false ? "Switch it on" : "Switch it off")}</p>
<details><summary>${p.runs.length} run times</summary><table>${runs.join("")}</table></details>`;
    });
    const clock = localIso(site.site.timeZone, now + h.clockOffS)
      .slice(0, 16)
      .replace("T", " ");
    return `<h2>${esc(settings.controllers[0]?.name ?? controllerId)}</h2>
<p>Its clock shows ${clock}. ${form({ controllerId, what: "clock" }, `Ahead by <input name="minutes" aria-label="Minutes ahead" value="${Math.round(h.clockOffS / 60)}"> min `, "Set")}
 ${form({ controllerId, what: "power" }, `Without power for <input name="minutes" aria-label="Minutes without power" value="30"> min `, "Pull the plug")}</p>
<p>${form({ controllerId, what: "percent" }, `Seasonal percent <input name="percent" aria-label="Seasonal percent" value="${settings.site.seasonalPercent ?? 100}"> % `, "Set")}
 ${settings.site.holdUntil ? `Off: ${esc(settings.site.holdUntil)}.` : ""}</p>${programs.join("")}`;
  });
  const locked = lockouts.map((id) => `<li>${esc(name(id))} ${form({ what: "clear", id }, "", "Free it")}</li>`);
  return page(
    site.site.name,
    `<p><a href="/">All sites</a>. ${open.length > 0 ? `Open now: ${esc(open.map(name).join(", "))}.` : "Nothing is open."}
 The gateway is ${silent ? "silent" : "speaking"}. ${form({ what: "silent", on: String(!silent) }, "", silent ? "Let it speak" : "Silence it")}</p>
${locked.length > 0 ? `<h2>Locked out</h2><ul>${locked.join("")}</ul>` : ""}${parts.join("")}`,
  );
}
