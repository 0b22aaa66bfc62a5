import { render } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { vi } from "vitest";
import { DataProvider } from "@/components/data/data-provider";

/** What a page asked the server for. */
export type Sent = { method: string; path: string; body: unknown };
/** A server that answers each request as told; what was asked is kept. */
export const server = (answer: (sent: Sent) => unknown | Response): Sent[] => {
  const sent: Sent[] = [];
  vi.stubGlobal("fetch", async (path: string, init?: RequestInit) => {
    const text = init?.body ? String(init.body) : null;
    const json = (init?.headers as Record<string, string> | undefined)?.["content-type"] === "application/json";
    const one = {
      method: init?.method ?? "GET",
      path,
      body: text !== null && json && /^[[{]/.test(text) ? JSON.parse(text) : text,
    };
    sent.push(one);
    const found = answer(one);
    return found instanceof Response
      ? found
      : new Response(JSON.stringify(found), { headers: { "content-type": "application/json" } });
  });
  return sent;
};
export const refused = (status: number, code: string, message: string): Response =>
  new Response(JSON.stringify({ error: { code, message } }), {
    status,
    headers: { "content-type": "application/json" },
  });
/** A page of the organisation, with what it asks for coming from {@link server}. */
export const show = (page: React.ReactNode) => {
  render(<DataProvider>{page}</DataProvider>);
  return userEvent.setup();
};
