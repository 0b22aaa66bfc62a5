"use client";
import { useRef, useState } from "react";
import type { ManyAsked } from "@/contracts/controllers";

/** So many sites are asked with one request: enough to be quick, few enough to see it go on. */
const AT_ONCE = 10;

/** How far asking many sites has come. */
export type Many = { done: number; of: number; asked: number; not: string[]; ended: boolean };

/** Asks many sites for something, or does it to them, some at a time, with how far it is, and an end when somebody says so. What was asked is asked. */
export function useMany() {
  const [many, setMany] = useState<Many | null>(null);
  const stopped = useRef(false);
  const begin = async <T>(items: readonly T[], ask: (part: T[]) => Promise<ManyAsked>): Promise<void> => {
    stopped.current = false;
    let now: Many = { done: 0, of: items.length, asked: 0, not: [], ended: false };
    setMany(now);
    while (now.done < items.length && !stopped.current) {
      const part = items.slice(now.done, now.done + AT_ONCE);
      try {
        const { asked, not } = await ask(part);
        now = { ...now, done: now.done + part.length, asked: now.asked + asked, not: [...now.not, ...not] };
      } catch (error) {
        const left = items.length - now.done;
        const why = error instanceof Error ? error.message : String(error);
        now = { ...now, not: [...now.not, `${left} of them were not asked: ${why}`] };
        break;
      }
      setMany(now);
    }
    setMany({ ...now, ended: true });
  };
  return {
    many,
    begin,
    stop: () => {
      stopped.current = true;
    },
  };
}
