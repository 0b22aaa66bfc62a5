import type { Journal } from "./journal.ts";
import type { GatewayOptions } from "./options.ts";
import { SiteGateway } from "./site-gateway.ts";

export type Gateway = { journal: () => Journal; site: SiteGateway; stop: () => Promise<void> };

/**
 * Plays one site as its controllers and field gateway would (docs/field-gateway.md).
 *
 * @throws where the broker does not take its account
 */
export async function startGateway(options: GatewayOptions): Promise<Gateway> {
  const site = new SiteGateway(options);
  await site.start();
  return { journal: () => site.journal, site, stop: () => site.stop() };
}
