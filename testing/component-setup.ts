import "@testing-library/jest-dom/vitest";
import { cleanup, configure } from "@testing-library/react";
import { afterEach } from "vitest";

// Parts that are loaded when they are first shown take their time on a busy machine.
configure({ asyncUtilTimeout: 10_000 });

// jsdom draws nothing, so the few measuring parts of a browser that our components ask for are given here as "no size, no change".
class NoSize {
  observe() {}
  unobserve() {}
  disconnect() {}
}
/** A stream on which nothing comes. */
class Silent {
  onmessage = null;
  close() {}
}
globalThis.EventSource ??= Silent as unknown as typeof EventSource;
globalThis.ResizeObserver ??= NoSize as unknown as typeof ResizeObserver;
HTMLDialogElement.prototype.showModal ??= function showModal(this: HTMLDialogElement) {
  this.open = true;
};
HTMLDialogElement.prototype.close ??= function close(this: HTMLDialogElement) {
  this.open = false;
  this.dispatchEvent(new Event("close"));
};
Element.prototype.scrollIntoView ??= () => {};
Element.prototype.hasPointerCapture ??= () => false;
// A canvas has no surface here; what draws on one must do without.
HTMLCanvasElement.prototype.getContext = () => null;
window.matchMedia ??= (query: string) =>
  ({
    matches: false,
    media: query,
    onchange: null,
    addEventListener() {},
    removeEventListener() {},
    addListener() {},
    removeListener() {},
    dispatchEvent: () => false,
  }) as MediaQueryList;

afterEach(cleanup);
