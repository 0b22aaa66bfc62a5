import {
  closeSync,
  existsSync,
  fsyncSync,
  mkdirSync,
  openSync,
  readdirSync,
  readFileSync,
  renameSync,
  rmSync,
  truncateSync,
  writeSync,
} from "node:fs";
import { join } from "node:path";

/** Lines in one file, and how many files are kept: about two days of watering at one reading a second. */
const LINES = 10_000;
const FILES = 40;

/**
 * Everything that was said, numbered from 1, on disk, so that whoever missed something can have it again, also after the gateway was
 * restarted. The oldest is thrown away in time.
 */
export class Journal {
  private last = 0;
  private firsts: number[];
  /** Lines of the newest file. */
  private tail: string[] = [];
  private readonly folder: string;

  constructor(folder: string) {
    this.folder = folder;
    mkdirSync(folder, { recursive: true });
    this.firsts = readdirSync(folder)
      .flatMap((f) => (/^\d{12}\.jsonl$/.test(f) ? [Number(f.slice(0, 12))] : []))
      .sort((a, b) => a - b);
    const newest = this.firsts.at(-1);
    if (newest === undefined) return;
    this.tail = this.whole(newest);
    this.last = newest + this.tail.length - 1;
  }

  get first(): number {
    return this.firsts[0] ?? 1;
  }

  get lastSeq(): number {
    return this.last;
  }

  get lastLine(): string | null {
    return this.tail.at(-1) ?? null;
  }

  /** Adds lines, on disk before it returns. */
  append(lines: readonly string[]): void {
    for (let i = 0; i < lines.length; ) {
      if (this.firsts.length === 0 || this.tail.length >= LINES) this.turn();
      const part = lines.slice(i, i + LINES - this.tail.length);
      writeThrough(this.file(this.firsts.at(-1) as number), "a", `${part.join("\n")}\n`);
      this.tail.push(...part);
      this.last += part.length;
      i += part.length;
    }
  }

  /** Lines of these numbers, as far as they are kept. */
  lines(from: number, to: number): string[] {
    const found: string[] = [];
    for (const [i, first] of this.firsts.entries()) {
      const end = (this.firsts[i + 1] ?? this.last + 1) - 1;
      if (end < from || first > to) continue;
      const all = i === this.firsts.length - 1 ? this.tail : this.whole(first);
      found.push(...all.slice(Math.max(0, from - first), to - first + 1));
    }
    return found;
  }

  private turn(): void {
    this.firsts.push(this.last + 1);
    this.tail = [];
    while (this.firsts.length > FILES) rmSync(this.file(this.firsts.shift() as number), { force: true });
  }

  private file(first: number): string {
    return join(this.folder, `${String(first).padStart(12, "0")}.jsonl`);
  }

  /** The lines of a file; one that was cut short when the power went is cut off. */
  private whole(first: number): string[] {
    const text = readFileSync(this.file(first), "utf8");
    const end = text.lastIndexOf("\n") + 1;
    if (end < text.length) truncateSync(this.file(first), Buffer.byteLength(text.slice(0, end)));
    return text.slice(0, end).split("\n").slice(0, -1);
  }
}

/** Writes, and returns once it is on the disk: what was said is still known when the power goes. */
function writeThrough(path: string, flags: "a" | "w", text: string): void {
  const file = openSync(path, flags);
  try {
    writeSync(file, text);
    fsyncSync(file);
  } finally {
    closeSync(file);
  }
}

/** What was noted; null where nothing was, or nothing that can be read. */
export function readNote<T>(folder: string, name: string): T | null {
  const path = join(folder, name);
  if (!existsSync(path)) return null;
  try {
    return JSON.parse(readFileSync(path, "utf8")) as T;
  } catch {
    return null;
  }
}

/** The old note stands until the new one is whole. */
export function writeNote(folder: string, name: string, value: unknown): void {
  mkdirSync(folder, { recursive: true });
  const path = join(folder, name);
  writeThrough(`${path}.new`, "w", JSON.stringify(value));
  renameSync(`${path}.new`, path);
}
