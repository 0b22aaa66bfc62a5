import { z } from "zod";
import { type ManyChange, manyChange, manyWords } from "../core/many/many-change.ts";
import { GROUP_KINDS, groupName } from "./groups.ts";
import { personName } from "./people.ts";

/** A change of the office's own on many sites, that no site file holds: by what sites are sorted, and who sees them. A manager's. */
export const officeChange = z.discriminatedUnion("kind", [
  z.strictObject({ kind: z.literal("group"), group: z.enum(GROUP_KINDS), name: groupName.nullable() }),
  z.strictObject({
    kind: z.literal("person"),
    personId: z.guid("Choose a person."),
    /** As they are called, for the deed's words. */
    name: personName,
    sees: z.boolean(),
  }),
]);
export type OfficeChange = z.infer<typeof officeChange>;
export type OfficeKind = OfficeChange["kind"];

/** Whatever one deed does to many sites. */
export const deedChange = z.union([manyChange, officeChange]);
export type DeedChange = z.infer<typeof deedChange>;

export const OFFICE_NAMES: Record<OfficeKind, string> = {
  group: "Client, area or crew",
  person: "Who sees the sites",
};

export const isOffice = (change: DeedChange): change is OfficeChange => Object.hasOwn(OFFICE_NAMES, change.kind);

function officeWords(change: OfficeChange): string {
  if (change.kind === "person") return `${change.name} ${change.sees ? "sees the site" : "no longer sees the site"}`;
  return `${change.group} ${change.name ?? "none"}`;
}

/** The change in words, as a deed is called. */
export const deedWords = (change: DeedChange): string =>
  isOffice(change) ? officeWords(change) : manyWords(change as ManyChange);
