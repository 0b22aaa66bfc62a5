"use client";
import { useEffect } from "react";
import { useWorkspace } from "@/components/draft/site-draft";
import { type Branch, Branches } from "@/components/kit/branches";
import { useConventions } from "@/components/kit/conventions";
import { NextLine } from "./next-line";

/** One bar under the pipe: title, views as branches, quiet tools, one main action at the right. It stays in sight. */
export function ScreenBar<T extends string>({
  title,
  views,
  at,
  onView,
  tools,
  main,
}: {
  title: string;
  views?: readonly Branch<T>[];
  at?: T;
  onView?: (id: T) => void;
  /** Quiet things to do, each with icon and word. */
  tools?: React.ReactNode;
  main?: React.ReactNode;
}) {
  const { draft, date: night } = useWorkspace("draft", "date");
  const view = views?.find((v) => v.id === at)?.label;
  useEffect(() => {
    document.title = `${view && view !== title ? `${title}: ${view}` : title} · ${draft.site.name} · Presa`;
  }, [title, view, draft.site.name]);
  const { date } = useConventions();
  return (
    <>
      <p className="print-only mb-2 border-b border-base-content font-semibold">
        {draft.site.name} · {view && view !== title ? `${title}: ${view}` : title} · {date(night)}
      </p>
      <div className="no-print sticky top-14 z-20 -mx-4 mb-3 flex min-h-10 flex-wrap items-center gap-x-3 border-b border-base-300 bg-base-100 px-4">
        <h2 className="text-xl mr-1">{title}</h2>
        {views && at !== undefined && onView && (
          <Branches label={`Views of ${title}`} views={views} at={at} onChange={onView} />
        )}
        <div className="ml-auto flex flex-wrap items-center gap-1 py-1">
          {tools}
          {main}
        </div>
      </div>
      <NextLine />
    </>
  );
}
