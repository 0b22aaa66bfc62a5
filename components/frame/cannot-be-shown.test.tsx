import { fireEvent, render, screen } from "@testing-library/react";
import { afterEach, beforeEach, expect, it, vi } from "vitest";
import { CannotBeShown } from "./cannot-be-shown";

const refresh = vi.fn();
vi.mock("next/navigation", () => ({ useRouter: () => ({ refresh }) }));
let isReady = true;
beforeEach(() => {
  refresh.mockClear();
  vi.useFakeTimers({ shouldAdvanceTime: true });
  vi.stubGlobal("fetch", async () => new Response("", { status: isReady ? 200 : 503 }));
});
afterEach(() => {
  vi.useRealTimers();
  vi.unstubAllGlobals();
});

it("says that the database is away, and shows the page by itself when it is back", async () => {
  isReady = false;
  const reset = vi.fn();
  render(<CannotBeShown reset={reset} />);
  expect(await screen.findByRole("heading", { name: "Presa cannot reach its data" })).toBeInTheDocument();
  expect(reset).not.toHaveBeenCalled();
  isReady = true;
  await vi.advanceTimersByTimeAsync(3100);
  expect(reset).toHaveBeenCalledOnce();
  expect(refresh).toHaveBeenCalledOnce();
});

it("that failed for another reason is tried again when asked, and not by itself", async () => {
  isReady = true;
  const reset = vi.fn();
  render(<CannotBeShown reset={reset} />);
  await vi.advanceTimersByTimeAsync(7000);
  expect(screen.getByRole("heading", { name: "This page could not be shown" })).toBeInTheDocument();
  expect(reset).not.toHaveBeenCalled();
  fireEvent.click(screen.getByRole("button", { name: "Try again" }));
  expect(reset).toHaveBeenCalledOnce();
});
