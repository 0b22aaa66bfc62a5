const TABLE = Uint32Array.from({ length: 256 }, (_, n) => {
  let c = n;
  for (let k = 0; k < 8; k++) c = c & 1 ? 0xedb88320 ^ (c >>> 1) : c >>> 1;
  return c >>> 0;
});

/** One spelling for one content: JSON with its keys in order, whoever wrote it; keys without a value are not there. */
export function canonical(value: unknown): string {
  if (Array.isArray(value)) return `[${value.map((v) => canonical(v ?? null)).join(",")}]`;
  if (typeof value !== "object" || value === null) return JSON.stringify(value) ?? "null";
  const entries = Object.entries(value).filter(([, v]) => v !== undefined);
  entries.sort(([a], [b]) => (a < b ? -1 : 1));
  return `{${entries.map(([k, v]) => `${JSON.stringify(k)}:${canonical(v)}`).join(",")}}`;
}

/** CRC-32 (ISO-HDLC) of the canonical JSON in UTF-8, eight hexadecimal digits: tells settings that came whole from those that did not. */
export function checksum(value: unknown): string {
  let crc = 0xffffffff;
  for (const byte of new TextEncoder().encode(canonical(value)))
    crc = (TABLE[(crc ^ byte) & 0xff] as number) ^ (crc >>> 8);
  return ((crc ^ 0xffffffff) >>> 0).toString(16).padStart(8, "0");
}
