import { z } from "zod";
import type { HandChange } from "./by-hand.ts";
import type { SiteFile } from "../core/site-file/schema.ts";

/** What Presa gives a gateway to speak with: the broker's address, and its own account there. */
export const gatewayKey = z.object({ broker: z.url(), account: z.string().min(1), password: z.string().min(1) });
export type GatewayKey = z.infer<typeof gatewayKey>;

export type GatewayOptions = {
  /** What stands in the ground, and what its controllers hold until they are set otherwise. */
  site: SiteFile;
  key: GatewayKey;
  /** Where the journal and what the controllers hold lie. */
  folder: string;
  /** Epoch seconds to begin anew at; without it, where the journal ended, else now. */
  from?: number | undefined;
  /** Seconds of the site in one. Never runs ahead of the clock. @default 1 */
  pace?: number | undefined;
  faults?: unknown[] | undefined;
  /** What is otherwise at the controllers than the site says, when they begin. */
  begin?: HandChange[] | undefined;
  /** @default 1 */
  seed?: number | undefined;
  say?: (words: string) => void;
};
