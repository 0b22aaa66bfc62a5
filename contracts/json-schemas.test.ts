import { readFileSync } from "node:fs";
import { describe, expect, it } from "vitest";
import { fieldGatewaySchema, siteFileJsonSchema } from "./json-schemas.ts";

describe("the JSON Schemas in docs/", () => {
  it.each([
    ["site-file.schema.json", siteFileJsonSchema],
    ["field-gateway.schema.json", fieldGatewaySchema],
  ])("%s is what the code takes (npm run schema)", (name, schema) => {
    expect(JSON.parse(readFileSync(`docs/${name}`, "utf8"))).toEqual(JSON.parse(JSON.stringify(schema())));
  });
});
