"use client";
import { useRouter } from "next/navigation";
import { useEffect, useRef, useState } from "react";
import { Button } from "@/components/kit/button";

const LOOKS_EVERY_MS = 3000;

/** In place of a page that failed: says whether the database is away, and shows the page by itself when it is back. */
export function CannotBeShown({ reset }: { reset: () => void }) {
  const router = useRouter();
  const [isAway, setAway] = useState(false);
  const wasAway = useRef(false);
  const again = useRef(() => {});
  again.current = () => {
    router.refresh();
    reset();
  };
  useEffect(() => {
    const look = async (): Promise<void> => {
      const isReady = await fetch("/readyz", { cache: "no-store" }).then(
        (r) => r.ok,
        () => false,
      );
      setAway(!isReady);
      if (isReady && wasAway.current) again.current();
      wasAway.current = !isReady;
    };
    void look();
    const timer = setInterval(() => void look(), LOOKS_EVERY_MS);
    return () => clearInterval(timer);
  }, []);
  return (
    <main className="max-w-prose p-10">
      <h1 className="text-2xl">{isAway ? "Presa cannot reach its data" : "This page could not be shown"}</h1>
      <p role="status" className="my-3">
        {isAway
          ? "The server or its database is away. What was saved is safe. Presa looks again every few seconds and shows the page when they are back."
          : "Nothing was saved or lost on the server. Try again; if it stays, the server's log says why."}
      </p>
      <Button rank="main" onClick={() => again.current()}>
        Try again
      </Button>
    </main>
  );
}
