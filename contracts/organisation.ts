import { z } from "zod";
import { timeZoneSchema } from "../core/dates/date-schema.ts";
import { SCHOOLS } from "../core/limits/schools.ts";

/** Shorter than a month nothing is kept: a night's alarm has to be looked into. */
const LEAST_DAYS = 31;
const days = z.int().min(LEAST_DAYS, `is at least ${LEAST_DAYS} days`).max(36_500).nullable();

/** For how many days readings, events and photographs are kept one by one; null: for ever. */
export const keeping = z.strictObject({ readingsDays: days, eventsDays: days, photosDays: days });
export type Keeping = z.infer<typeof keeping>;

/** The organisation's name, and what its new sites begin with. @property timeZone null: that of whoever begins one */
export const organisationSettings = z.strictObject({
  name: z.string().trim().min(1, "An organisation needs a name.").max(200, "A name has at most 200 characters."),
  timeZone: timeZoneSchema.nullable(),
  units: z.enum(["metric", "us"]),
  /** A starting point of limits, by its id. */
  school: z.enum(SCHOOLS.map((s) => s.id) as [string, ...string[]]),
});
export type OrganisationSettings = z.infer<typeof organisationSettings>;

/** Everything that is audited, in words. */
export const AUDITED = {
  signedIn: "signed in",
  wrongPassword: "tried to sign in with a wrong password",
  wrongCode: "gave a wrong code at the second step",
  usedRecoveryCode: "signed in with a recovery code",
  signedOut: "signed out",
  invited: "invited somebody",
  withdrewInvitation: "withdrew an invitation",
  joined: "joined",
  left: "left",
  tookOut: "took somebody out",
  roleChanged: "gave somebody another role",
  sitesGiven: "decided which sites somebody sees",
  sortedSite: "sorted a site",
  changedMany: "made one change on many sites",
  undidMany: "took a change on many sites back",
  renamed: "changed their own name",
  passwordChanged: "chose another password",
  passwordLink: "made a link for another password",
  sessionsEnded: "ended sessions",
  twoFactorOn: "set up a second step",
  twoFactorOff: "took the second step off",
  recoveryCodesMade: "made new recovery codes",
  exportedSite: "exported a site",
  exportedAlarms: "exported alarms",
  exportedLibrary: "exported the library",
  exportedAll: "exported everything of the organisation",
  exportedAudit: "exported this list",
  deletedDevice: "took a device out of the library",
  deletedProfile: "took a kind of controller out",
  gatewayOpened: "gave a gateway its account",
  gatewayClosed: "closed a gateway's account",
  sentSettings: "sent settings to controllers",
  takenFromController: "took over what a controller holds",
  ordered: "had controllers do something",
  broughtLog: "brought in a recorder's log",
  answeredFinding: "answered what a night said",
  webhookMade: "had another system told of alarms",
  webhookTakenOut: "ended telling another system",
  archivedSite: "archived a site",
  broughtSiteBack: "brought a site back",
  deletedSite: "deleted a site",
  settingsChanged: "changed the organisation's settings",
  mailedPaper: "sent a sheet by mail",
  calendarAddress: "made a secret address for their calendar",
  visitsChanged: "changed the checklists and what is asked for by the calendar",
  keepingChanged: "changed how long things are kept",
} as const;
export type Audited = keyof typeof AUDITED;

export const auditFilter = z.strictObject({
  what: z.enum(Object.keys(AUDITED) as [Audited, ...Audited[]]).optional(),
  who: z.string().max(200).optional(),
  before: z.coerce.number().int().positive().optional(),
});
export type AuditFilter = z.infer<typeof auditFilter>;
export type AuditRow = {
  id: number;
  at: string;
  who: string;
  what: Audited;
  about: string;
  address: string | null;
};

export type OrganisationView = { name: string; keeping: Keeping; people: string[] };
export const erasing = z.strictObject({ name: z.string().max(200), password: z.string().min(1).max(200) });
