"use client";
import { ChevronLeft, ChevronRight } from "lucide-react";
import { Button } from "@/components/kit/button";
import { Select, Slider } from "@/components/kit/inputs";
import { useEffect, useRef } from "react";

export const SPEEDS = [1, 10, 60, 300, 1800] as const;

type Props = {
  from: number;
  to: number;
  at: number;
  playing: boolean;
  speed: number;
  onAt: (at: number) => void;
  onPlaying: (playing: boolean) => void;
  onSpeed: (speed: number) => void;
  onEvent: (step: 1 | -1) => void;
  clock: (at: number) => string;
};

/** Plays a night that was run: from 1 × to as fast as one likes, pause, and from event to event. */
export function Playback({ from, to, at, playing, speed, onAt, onPlaying, onSpeed, onEvent, clock }: Props) {
  const now = useRef(at);
  now.current = at;
  const tell = useRef({ onAt, onPlaying });
  tell.current = { onAt, onPlaying };
  useEffect(() => {
    if (!playing) return;
    let frame = 0;
    let last = performance.now();
    let exact = now.current >= to ? from : now.current;
    const step = (t: number): void => {
      exact = Math.min(to, exact + ((t - last) / 1000) * speed);
      last = t;
      tell.current.onAt(Math.floor(exact));
      if (exact >= to) tell.current.onPlaying(false);
      else frame = requestAnimationFrame(step);
    };
    frame = requestAnimationFrame(step);
    return () => cancelAnimationFrame(frame);
  }, [playing, speed, from, to]);
  return (
    <fieldset className="flex flex-wrap items-center gap-2 my-1" aria-label="Playing the night">
      <Button aria-label="Event before" onClick={() => onEvent(-1)}>
        <ChevronLeft className="inline size-[1em] align-[-0.12em]" aria-hidden /> event
      </Button>
      <Button rank="main" aria-pressed={playing} onClick={() => onPlaying(!playing)}>
        {playing ? "Pause" : "Play"}
      </Button>
      <Button aria-label="Next event" onClick={() => onEvent(1)}>
        event <ChevronRight className="inline size-[1em] align-[-0.12em]" aria-hidden />
      </Button>
      <label className="inline-flex items-center gap-2">
        <span className="text-faint">at</span>
        <Select
          style={{ width: "7rem" }}
          aria-label="Speed"
          value={speed}
          onChange={(e) => onSpeed(Number(e.target.value))}
        >
          {SPEEDS.map((s) => (
            <option key={s} value={s}>
              {s} ×
            </option>
          ))}
        </Select>
      </label>
      <Slider
        className="grow min-w-40 accent-[var(--water)]"
        aria-label="Time of the night"
        aria-valuetext={clock(at)}
        min={from}
        max={to}
        step={1}
        value={Math.max(from, Math.min(to, at))}
        onChange={(e) => {
          onPlaying(false);
          onAt(Number(e.target.value));
        }}
      />
      <output className="text-lg font-semibold">{clock(at)}</output>
    </fieldset>
  );
}
