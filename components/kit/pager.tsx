"use client";
import { ChevronLeft, ChevronRight } from "lucide-react";
import { Button } from "./button";

/** Which of how many stand on this page, and the ways to the pages before and after; nothing where one page holds all. */
export function Pager({
  page,
  pageSize,
  found,
  more = false,
  onPage,
}: {
  page: number;
  pageSize: number;
  found: number;
  /** There are more than are counted. */
  more?: boolean;
  onPage: (page: number) => void;
}) {
  const last = Math.max(1, Math.ceil(found / pageSize));
  if (last === 1 && !more) return null;
  const from = (page - 1) * pageSize + 1;
  return (
    <nav aria-label="Pages of the list" className="no-print mt-3 flex items-center gap-2">
      <Button icon={ChevronLeft} disabled={page <= 1} onClick={() => onPage(page - 1)}>
        Before
      </Button>
      <span aria-live="polite">
        {Math.min(from, found)} to {Math.min(from + pageSize - 1, found)} of {more && "more than "}
        {found}
      </span>
      <Button icon={ChevronRight} disabled={page >= last && !more} onClick={() => onPage(page + 1)}>
        Next
      </Button>
    </nav>
  );
}
