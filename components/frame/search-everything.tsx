"use client";
import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { Command } from "cmdk";
import { useEffect, useState } from "react";
import { request } from "@/components/data/request";
import { Dialog } from "@/components/kit/dialog";
import { Problem } from "@/components/kit/notice";
import { FOUND_KINDS, type FoundKind, type FoundThings } from "@/contracts/search";

/** After the last key, ms. */
const PAUSE_MS = 150;
const HEADINGS: Record<FoundKind, string> = {
  site: "Sites",
  piece: "Stations, devices and other pieces",
  person: "People",
  alarm: "Alarms",
};

/** What is written, once the hand rests. */
function useRested(value: string): string {
  const [rested, setRested] = useState(value);
  useEffect(() => {
    const timer = setTimeout(() => setRested(value), PAUSE_MS);
    return () => clearTimeout(timer);
  }, [value]);
  return rested;
}

/** Search over everything that has a name: sites, stations by name, number or serial, devices, people, alarms. */
export function SearchEverything({
  open,
  onClose,
  go,
}: {
  open: boolean;
  onClose: () => void;
  go: (to: string) => void;
}) {
  const [words, setWords] = useState("");
  const asked = useRested(words.trim());
  const answer = useQuery({
    queryKey: ["search", asked],
    queryFn: () => request<FoundThings>("GET", `/api/search?q=${encodeURIComponent(asked)}`),
    enabled: open && asked !== "",
    placeholderData: keepPreviousData,
    staleTime: 10_000,
  });
  const close = (): void => {
    setWords("");
    onClose();
  };
  const found = asked === "" ? [] : (answer.data?.found ?? []);
  return (
    <Dialog title="Search everything" open={open} onClose={close}>
      <Command label="Found" shouldFilter={false}>
        <Command.Input
          autoFocus
          value={words}
          onValueChange={setWords}
          placeholder="A site, a station's name, number or serial, a person, an alarm"
          className="input w-full"
        />
        <Command.List className="mt-2 max-h-[60vh] overflow-y-auto" aria-busy={answer.isFetching}>
          {asked !== "" && answer.isSuccess && !answer.isPlaceholderData && (
            <Command.Empty className="px-2 py-1 text-faint">Nothing is called that.</Command.Empty>
          )}
          {FOUND_KINDS.map((kind) => {
            const of = found.filter((f) => f.kind === kind);
            return of.length === 0 ? null : (
              <Command.Group
                key={kind}
                heading={HEADINGS[kind]}
                className="text-faint [&_[cmdk-item]]:text-base-content"
              >
                {of.map((f) => (
                  <Command.Item
                    key={f.id}
                    value={`${kind} ${f.id}`}
                    className="flex cursor-pointer items-baseline justify-between gap-4 px-2 py-1 aria-selected:bg-base-content aria-selected:text-base-100"
                    onSelect={() => {
                      close();
                      go(f.at);
                    }}
                  >
                    <span>{f.name}</span>
                    <span className="shrink-0 text-xs opacity-80">{f.about}</span>
                  </Command.Item>
                ))}
              </Command.Group>
            );
          })}
        </Command.List>
      </Command>
      {answer.error && <Problem>{answer.error.message}</Problem>}
    </Dialog>
  );
}
