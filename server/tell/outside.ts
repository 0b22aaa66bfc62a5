import { createHmac } from "node:crypto";
import { lookup } from "node:dns";
import { request as overHttp } from "node:http";
import { request as overHttps } from "node:https";
import { BlockList, isIP, type LookupFunction } from "node:net";

/** A system that does not answer within so long is tried again later, ms. */
const STALLS_MS = 10_000;

/** Addresses behind which are this machine and its neighbours: nobody's webhook reaches in here. */
const INSIDE = new BlockList();
for (const [net, bits] of [
  ["0.0.0.0", 8],
  ["10.0.0.0", 8],
  ["100.64.0.0", 10],
  ["127.0.0.0", 8],
  ["169.254.0.0", 16],
  ["172.16.0.0", 12],
  ["192.0.0.0", 24],
  ["192.168.0.0", 16],
  ["198.18.0.0", 15],
  ["224.0.0.0", 3],
] as const)
  INSIDE.addSubnet(net, bits, "ipv4");
for (const [net, bits] of [
  ["::", 127],
  ["64:ff9b::", 96],
  ["fc00::", 7],
  ["fe80::", 10],
  ["ff00::", 8],
] as const)
  INSIDE.addSubnet(net, bits, "ipv6");

/** Whether an address is this machine's or its network's. IPv4 written as IPv6 is what it stands for. */
export function isInside(address: string): boolean {
  const mapped = /^::ffff:(\d+\.\d+\.\d+\.\d+)$/i.exec(address)?.[1];
  if (mapped) return isInside(mapped);
  if (/^::ffff:/i.test(address)) return true;
  return INSIDE.check(address, isIP(address) === 6 ? "ipv6" : "ipv4");
}

/** Set by an operator whose other systems stand in the same network. */
export const mayReachInside = (): boolean => process.env["PRESA_WEBHOOKS_INSIDE"] === "1";
const REFUSED = "It is in the network of this Presa, where no webhook may go.";

/** Looks a name up, and refuses what lies inside: the very address that is looked at is the one that is called. */
const lookupOutside: LookupFunction = (host, options, done) =>
  lookup(host, { ...options, all: true }, (error, found) => {
    if (error) return done(error, "");
    const addresses = found as { address: string; family: number }[];
    if (!mayReachInside() && addresses.some((a) => isInside(a.address))) return done(new Error(REFUSED), "");
    const [first] = addresses;
    if (!first) return done(new Error(`${host} has no address.`), "");
    return options.all ? done(null, addresses) : done(null, first.address, first.family);
  });

/**
 * What a call bears so that the other side knows it is ours: `t=SECONDS,v1=HEX`, the HMAC-SHA256 of `SECONDS.BODY` under the secret (docs/webhooks.md).
 *
 * @param seconds epoch seconds at which it is sent
 */
export function signature(secret: string, seconds: number, body: string): string {
  return `t=${seconds},v1=${createHmac("sha256", secret).update(`${seconds}.${body}`).digest("hex")}`;
}

/** Calls another system. @returns its status; @throws why it could not be reached */
export function callOutside(url: string, body: string, headers: Record<string, string>): Promise<number> {
  const { protocol, hostname } = new URL(url);
  const bare = hostname.replace(/^\[|\]$/g, "");
  if (isIP(bare) !== 0 && isInside(bare) && !mayReachInside()) return Promise.reject(new Error(REFUSED));
  return new Promise((yes, no) => {
    const sent = (protocol === "https:" ? overHttps : overHttp)(url, {
      method: "POST",
      lookup: lookupOutside,
      timeout: STALLS_MS,
      signal: AbortSignal.timeout(STALLS_MS),
      headers: { "content-type": "application/json", "content-length": Buffer.byteLength(body), ...headers },
    });
    sent.on("response", (response) => {
      // What it answers beside its status is nothing to us.
      response.destroy();
      yes(response.statusCode ?? 0);
    });
    sent.on("timeout", () => sent.destroy(new Error(`It said nothing for ${STALLS_MS / 1000} s.`)));
    sent.on("error", no);
    sent.end(body);
  });
}
