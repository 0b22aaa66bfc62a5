/** A letter that was caught. */
export type Letter = { at: string; from: string; to: string[]; subject: string; text: string };

const ESCAPES: Record<string, string> = { "&": "&amp;", "<": "&lt;", ">": "&gt;", '"': "&quot;" };
const escaped = (text: string): string => text.replace(/[&<>"]/g, (c) => ESCAPES[c] ?? c);
/** Addresses of Presa's own pages in a letter lead there. */
const linked = (text: string): string =>
  escaped(text).replace(/https?:\/\/127\.0\.0\.1:\d+\/[^\s<]*/g, (url) => `<a href="${url}">${url}</a>`);

/** The letters as a page that needs nothing but itself. */
export function listPage(letters: readonly Letter[]): string {
  const rows = letters.map(
    (l) =>
      `<article><h2>${escaped(l.subject)}</h2><p>${escaped(l.at)} · to ${escaped(l.to.join(", "))} · from ${escaped(l.from)}</p><pre>${linked(l.text)}</pre></article>`,
  );
  return `<!doctype html><html lang="en"><meta charset="utf-8"><meta http-equiv="refresh" content="5"><title>Mail catcher</title>
<style>body{font:16px/1.45 sans-serif;max-width:50rem;margin:1.5rem auto;padding:0 1rem}h2{font-size:1rem;margin:0}article{border-top:1px solid #999;padding:.6rem 0}p{margin:.1rem 0;color:#555}pre{white-space:pre-wrap;font:inherit}</style>
<h1>Mail catcher</h1><p>Letters that Presa sent. None of them leaves this machine.</p>${rows.join("") || "<p>None yet.</p>"}`;
}
