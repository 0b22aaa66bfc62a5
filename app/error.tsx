"use client";
import { CannotBeShown } from "@/components/frame/cannot-be-shown";

export default function ErrorPage({ reset }: { error: Error; reset: () => void }) {
  return <CannotBeShown reset={reset} />;
}
