"use client";
import { useEffect, useState } from "react";
import { Problem } from "@/components/kit/notice";
import { openPdf } from "@/components/pictures/plan/pdf-pages";

/** Sharp enough to be read on a screen, px along the longer side. */
const SHOWN_PX = 1600;

type State = { pages: string[]; count: number | null; problem: string | null };
const NOTHING: State = { pages: [], count: null, problem: null };

/** A PDF of the server, page by page, as it will be printed. */
export function PaperPages({ address, title }: { address: string; title: string }) {
  const [{ pages, count, problem }, setState] = useState(NOTHING);
  useEffect(() => {
    const gone = new AbortController();
    const urls: string[] = [];
    drawPages(address, gone.signal, (page, of) => {
      if (gone.signal.aborted) return;
      if (page) urls.push(URL.createObjectURL(page));
      setState({ pages: [...urls], count: of, problem: null });
    }).catch((error: unknown) => {
      if (!gone.signal.aborted)
        setState((s) => ({ ...s, problem: error instanceof Error ? error.message : String(error) }));
    });
    return () => {
      gone.abort();
      for (const url of urls) URL.revokeObjectURL(url);
    };
  }, [address]);
  if (problem) return <Problem>{problem}</Problem>;
  return (
    <section aria-label={`${title}, as it is printed`}>
      {count === null && <p role="status">Making the sheet…</p>}
      {count !== null && (
        <p role="status" className="mb-2 text-faint">
          {pages.length < count ? `Page ${pages.length} of ${count}…` : `${count} page${count === 1 ? "" : "s"}`}
        </p>
      )}
      {pages.map((url, i) => (
        // biome-ignore lint/performance/noImgElement: a picture made in the browser a moment ago
        <img
          key={url}
          src={url}
          alt={`Page ${i + 1} of the ${title.toLowerCase()}`}
          className="mb-4 w-full max-w-3xl border border-base-content bg-white"
        />
      ))}
    </section>
  );
}

/** Hands over each page as it is drawn; first that there are any, and how many. */
async function drawPages(
  address: string,
  gone: AbortSignal,
  onPage: (page: Blob | null, count: number) => void,
): Promise<void> {
  const answer = await fetch(address, { signal: gone });
  if (!answer.ok) {
    const told = (await answer.json().catch(() => null)) as { error?: { message?: string } } | null;
    throw new Error(told?.error?.message ?? "The sheet could not be made. Try again.");
  }
  const pdf = await openPdf(new File([await answer.blob()], "sheet.pdf", { type: "application/pdf" }));
  try {
    onPage(null, pdf.count);
    for (let n = 1; n <= pdf.count && !gone.aborted; n++) onPage(await pdf.picture(n, SHOWN_PX), pdf.count);
  } finally {
    pdf.close();
  }
}
