"use client";
import { useRef, useState } from "react";
import type { ManyAsked } from "@/contracts/controllers";

/** So many sites are asked with one request: enough to be quick, few enough to see it go on. */
const AT_ONCE = 10;
const IN_FLIGHT = 2;

/** How far asking many sites has come. */
export type Many = { done: number; of: number; asked: number; not: string[]; ended: boolean };

/** Asks many sites for something, or does it to them, some at a time, with how far it is, and an end when somebody says so. What was asked is asked. */
export function useMany() {
  const [many, setMany] = useState<Many | null>(null);
  const stopped = useRef(false);
  const begin = async <T>(items: readonly T[], ask: (part: T[]) => Promise<ManyAsked>): Promise<void> => {
    stopped.current = false;
    let now: Many = { done: 0, of: items.length, asked: 0, not: [], ended: false };
    let next = 0;
    setMany(now);
    const askOn = async (): Promise<void> => {
      while (next < items.length && !stopped.current) {
        const part = items.slice(next, next + AT_ONCE);
        next += part.length;
        const { asked, not } = await ask(part);
        now = { ...now, done: now.done + part.length, asked: now.asked + asked, not: [...now.not, ...not] };
        setMany(now);
      }
    };
    try {
      // While the answer to one is on its way the other is worked on.
      await Promise.all(Array.from({ length: IN_FLIGHT }, askOn));
    } catch (error) {
      stopped.current = true;
      const why = error instanceof Error ? error.message : String(error);
      now = { ...now, not: [...now.not, `${items.length - now.done} of them were not asked: ${why}`] };
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
