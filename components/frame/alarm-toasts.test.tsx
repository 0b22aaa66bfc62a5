import { act, render, screen } from "@testing-library/react";
import { Toaster } from "sonner";
import { afterEach, expect, it, vi } from "vitest";
import { AlarmToasts } from "./alarm-toasts";

vi.mock("next/navigation", () => ({ useRouter: () => ({ push: () => {} }) }));
afterEach(() => vi.unstubAllGlobals());

const alarm = (id: string): object => ({
  id,
  siteId: "s",
  siteName: `Court ${id}`,
  kind: "stationHigh",
  at: new Date().toISOString(),
  message: `station ${id} reads high`,
  rehearsed: false,
});

it("an alarm that comes while the open ones are being asked for is told, and what stood open before is not", async () => {
  const streams: { onmessage?: (e: { data: string }) => void }[] = [];
  class Stream {
    onmessage?: (e: { data: string }) => void;
    constructor() {
      streams.push(this);
    }
    close(): void {}
  }
  vi.stubGlobal("EventSource", Stream);
  let open = [alarm("old")];
  const answers: (() => void)[] = [];
  vi.stubGlobal("fetch", async () => {
    const asked = JSON.stringify({ alarms: open });
    await new Promise<void>((yes) => answers.push(yes));
    return new Response(asked, { headers: { "content-type": "application/json" } });
  });
  const news = (): void => streams[0]?.onmessage?.({ data: '{"type":"alarms"}' });
  const answer = (): Promise<void> => act(async () => answers.shift()?.());
  render(
    <>
      <Toaster />
      <AlarmToasts />
    </>,
  );
  await answer();
  news();
  open = [...open, alarm("new")];
  news();
  await answer();
  await vi.waitUntil(() => answers.length > 0);
  await answer();
  expect(await screen.findByText(/Court new/)).toBeVisible();
  expect(screen.queryByText(/Court old/)).toBeNull();
});
