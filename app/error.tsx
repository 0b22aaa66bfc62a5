"use client";
import { Button } from "@/components/kit/button";

export default function ErrorPage({ reset }: { error: Error; reset: () => void }) {
  return (
    <main className="p-10 max-w-prose">
      <h1 className="text-2xl">This page could not be shown</h1>
      <p className="my-3">
        Nothing was saved or lost on the server. Try again; if it stays, the server's log says why.
      </p>
      <Button rank="main" onClick={reset}>
        Try again
      </Button>
    </main>
  );
}
