import { z } from "zod";
import {
  askMessage,
  eventMessage,
  lostMessage,
  playMessage,
  readingMessage,
  stateMessage,
} from "../core/field/messages.ts";
import { doMessage, doneMessage, holdsMessage, settingsMessage, takenMessage } from "../core/field/orders.ts";
import { siteFileSchema } from "../core/site-file/schema.ts";

const json = (schema: z.ZodType): object => z.toJSONSchema(schema, { io: "input", unrepresentable: "any" });

/** The JSON Schema of the site file. */
export const siteFileJsonSchema = (): object => ({ title: "Presa site file", ...json(siteFileSchema) });

const MESSAGES = {
  state: stateMessage,
  reading: readingMessage,
  event: eventMessage,
  lost: lostMessage,
  ask: askMessage,
  play: playMessage,
  settings: settingsMessage,
  taken: takenMessage,
  holds: holdsMessage,
  do: doMessage,
  done: doneMessage,
};

/** The JSON Schema of every message between Presa and a field gateway (docs/field-gateway.md), each under `$defs`. */
export const fieldGatewaySchema = (): object => ({
  title: "Presa field gateway, second version",
  $schema: "https://json-schema.org/draft/2020-12/schema",
  $defs: Object.fromEntries(
    Object.entries(MESSAGES).map(([name, schema]) => {
      const { $schema: _, ...rest } = json(schema) as { $schema?: string };
      return [name, rest];
    }),
  ),
});
