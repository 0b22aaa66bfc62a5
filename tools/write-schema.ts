import { writeFileSync } from "node:fs";
import { z } from "zod";
import { siteFileSchema } from "../core/site-file/schema.ts";

/** `npm run schema`: the JSON Schema of the site file, from the Zod schema. */
const schema = z.toJSONSchema(siteFileSchema, { io: "input", unrepresentable: "any" });
writeFileSync(
  new URL("../docs/site-file.schema.json", import.meta.url),
  `${JSON.stringify({ title: "Presa site file", ...schema }, null, 1)}\n`,
);
