import { writeFileSync } from "node:fs";
import { fieldGatewaySchema, siteFileJsonSchema } from "../contracts/json-schemas.ts";

/** `npm run schema`: the JSON Schemas of the site file and of what a field gateway says and hears, from the Zod schemas. */
const write = (name: string, schema: object): void =>
  writeFileSync(new URL(`../docs/${name}`, import.meta.url), `${JSON.stringify(schema, null, 1)}\n`);
write("site-file.schema.json", siteFileJsonSchema());
write("field-gateway.schema.json", fieldGatewaySchema());
