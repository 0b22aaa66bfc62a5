import { act } from "@testing-library/react";
import { vi } from "vitest";

/** A stream of events of the server on which the test speaks; stands in for the browser's. */
export class EventStream {
  static readonly CLOSED = 2;
  static opened: EventStream[] = [];
  readonly url: string;
  readyState = 1;
  onmessage: ((event: { data: string }) => void) | null = null;
  onerror: (() => void) | null = null;

  constructor(url: string) {
    this.url = url;
    EventStream.opened.push(this);
  }
  /** Takes the place of the browser's until globals are put back. */
  static install(): void {
    EventStream.opened = [];
    vi.stubGlobal("EventSource", EventStream);
  }
  /** The newest one that is still open; throws where there is none. */
  static get last(): EventStream {
    const open = EventStream.opened.findLast((s) => !s.closed);
    if (!open) throw new Error("no stream is open");
    return open;
  }
  get closed(): boolean {
    return this.readyState === EventStream.CLOSED;
  }
  close(): void {
    this.readyState = EventStream.CLOSED;
  }
  say(message: object): void {
    act(() => this.onmessage?.({ data: JSON.stringify(message) }));
  }
  /** The server ended it, or could not be reached any more. */
  break(): void {
    this.readyState = EventStream.CLOSED;
    act(() => this.onerror?.());
  }
}
