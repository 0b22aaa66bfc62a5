"use client";
import { ChevronLeft, ChevronRight } from "lucide-react";
import { Button } from "./button";

/** Which of how many stand on this page, and the ways to the pages before and after; nothing where one page holds all. */
export function Pager({
  page,
  pageSize,
  found,
  onPage,
}: {
  page: number;
  pageSize: number;
  found: number;
  onPage: (page: number) => void;
}) {
  const last = Math.max(1, Math.ceil(found / pageSize));
  if (last === 1) return null;
  const from = (page - 1) * pageSize + 1;
  return (
    <nav aria-label="Pages of the list" className="no-print mt-3 flex items-center gap-2">
      <Button icon={ChevronLeft} disabled={page <= 1} onClick={() => onPage(page - 1)}>
        Before
      </Button>
      <span aria-live="polite">
        {Math.min(from, found)} to {Math.min(from + pageSize - 1, found)} of {found}
      </span>
      <Button icon={ChevronRight} disabled={page >= last} onClick={() => onPage(page + 1)}>
        Next
      </Button>
    </nav>
  );
}
