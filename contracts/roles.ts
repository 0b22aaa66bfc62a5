import type { Role } from "./people.ts";

/**
 * What each role may do, in words, with the routes that do it: the table that people read, and that the routes are held against. A role may do what the ones before it may.
 */
export const ROLES: readonly Role[] = ["viewer", "technician", "manager"];

export const ROLE_WORDS: Record<Role, string> = {
  viewer: "looks at everything, changes nothing",
  technician: "configures sites, learns, answers alarms, works with the controllers",
  manager: "does what a technician does, and answers for people, gateways and what is kept",
};

/** @property routes method and address, as the folders of app/api have them */
export type Ability = { words: string; least: Role; routes: readonly string[] };

export const ABILITIES: readonly Ability[] = [
  {
    words: "See sites, nights, limits, the log and last night, take a site's file away, and keep views of their own",
    least: "viewer",
    routes: [
      "GET /api/sites",
      "GET /api/sites/[siteId]/file",
      "GET /api/sites/[siteId]/files/[fileId]",
      "GET /api/sites/[siteId]/archive",
      "GET /api/sites/[siteId]/compare",
      "GET /api/sites/[siteId]/revisions",
      "GET /api/sites/[siteId]/log",
      "GET /api/sites/[siteId]/log/facts",
      "GET /api/sites/[siteId]/timeline",
      "GET /api/sites/[siteId]/paper/[kind]",
      "GET /api/sites/[siteId]/live",
      "GET /api/sites/[siteId]/mornings",
      "GET /api/sites/[siteId]/water",
      "GET /api/water",
      "GET /api/sites/[siteId]/counters",
      "GET /api/sites/[siteId]/meter",
      "GET /api/sites/[siteId]/visits",
      "GET /api/sites/[siteId]/todos",
      "GET /api/sites/[siteId]/along",
      "GET /api/sites/[siteId]/due",
      "GET /api/sites/[siteId]/valve-checks",
      "GET /api/organisation/visits",
      "GET /api/sites/[siteId]/mornings/stations/[stationId]",
      "GET /api/rounds",
      "GET /api/rounds/live",
      "GET /api/rounds/choices",
      "GET /api/rounds/places",
      "GET /api/groups",
      "GET /api/deeds",
      "GET /api/search",
      "GET /api/organisation/settings",
      "GET /api/organisation/logo",
      "GET /api/organisation/logo/picture",
      "GET /api/views",
      "POST /api/views",
      "DELETE /api/views/[viewId]",
    ],
  },
  {
    words: "See alarms, their photographs, and take them away as CSV",
    least: "viewer",
    routes: [
      "GET /api/alarms",
      "GET /api/alarms/sites",
      "GET /api/alarms/csv",
      "GET /api/alarms/live",
      "GET /api/alarms/photos/[entryId]",
    ],
  },
  {
    words: "See what was learned, controllers and live readings",
    least: "viewer",
    routes: [
      "GET /api/sites/[siteId]/learning",
      "GET /api/sites/[siteId]/learning/history",
      "GET /api/sites/[siteId]/learning/[runId]",
      "GET /api/sites/[siteId]/learning/[runId]/readings",
      "GET /api/sites/[siteId]/controllers",
      "GET /api/sites/[siteId]/field",
      "GET /api/sites/[siteId]/field/live",
      "GET /api/controllers",
    ],
  },
  {
    words: "See the calendar, and make a secret address of their own from which other calendars read it",
    least: "viewer",
    routes: ["GET /api/calendar", "POST /api/calendar", "DELETE /api/calendar"],
  },
  {
    words: "See the library and the kinds of controller",
    least: "viewer",
    routes: ["GET /api/library", "GET /api/library/csv", "GET /api/profiles"],
  },
  {
    words: "Practise: drills on a simulated site",
    least: "viewer",
    routes: ["GET /api/sites/[siteId]/drills", "POST /api/sites/[siteId]/drills"],
  },
  {
    words:
      "Their own account: name, password, second step, what they are told by mail, where they are signed in, leaving",
    least: "viewer",
    routes: [
      "GET /api/account",
      "PATCH /api/account",
      "DELETE /api/account",
      "DELETE /api/account/sessions",
      "DELETE /api/account/sessions/[sessionId]",
      "POST /api/account/two-factor",
      "PATCH /api/account/two-factor",
      "DELETE /api/account/two-factor",
      "POST /api/account/recovery-codes",
      "GET /api/account/telling",
      "PATCH /api/account/telling",
      "POST /api/account/telling",
    ],
  },
  {
    words: "Begin and bring in sites, save changes, keep photographs, plans and papers, run the bench for the log",
    least: "technician",
    routes: [
      "POST /api/sites",
      "POST /api/sites/[siteId]/files/[fileId]",
      "POST /api/sites/[siteId]/revisions",
      "POST /api/sites/[siteId]/bench",
    ],
  },
  {
    words: "Make one change on many sites, and take it back",
    least: "technician",
    routes: ["POST /api/deeds", "POST /api/deeds/preview", "POST /api/deeds/[deedId]", "POST /api/deeds/[deedId]/undo"],
  },
  {
    words: "Begin counters anew, enter what water meters read and what valves draw by wire",
    least: "technician",
    routes: [
      "POST /api/sites/[siteId]/counters",
      "POST /api/sites/[siteId]/meter",
      "DELETE /api/sites/[siteId]/meter/[readingId]",
      "POST /api/sites/[siteId]/valve-checks",
    ],
  },
  {
    words: "Send sheets of a site by mail, in their own name",
    least: "technician",
    routes: ["POST /api/sites/[siteId]/paper/[kind]"],
  },
  {
    words: "Visit sites by a checklist, say what is to do and have it done, note what was done anew",
    least: "technician",
    routes: [
      "POST /api/sites/[siteId]/visits",
      "POST /api/sites/[siteId]/visits/[visitId]",
      "POST /api/sites/[siteId]/todos",
      "PATCH /api/sites/[siteId]/todos/[todoId]",
      "POST /api/sites/[siteId]/due",
      "DELETE /api/sites/[siteId]/due/[doneId]",
    ],
  },
  {
    words: "Walk, visit, prove and answer alarms in the field, also without a connection, with photographs",
    least: "technician",
    routes: [
      "POST /api/sites/[siteId]/entries",
      "GET /api/sites/[siteId]/files/[fileId]/pieces",
      "POST /api/sites/[siteId]/files/[fileId]/pieces",
    ],
  },
  {
    words: "Learn flows and take figures",
    least: "technician",
    routes: [
      "POST /api/sites/[siteId]/learning",
      "POST /api/sites/[siteId]/learning/[runId]",
      "DELETE /api/sites/[siteId]/learning/[runId]",
      "POST /api/sites/[siteId]/learning/[runId]/sets",
      "POST /api/sites/[siteId]/learning/[runId]/meter",
      "POST /api/sites/[siteId]/learning/proposals",
      "POST /api/sites/[siteId]/learning/outside",
      "POST /api/sites/[siteId]/learning/there",
    ],
  },
  {
    words: "Acknowledge and clear alarms, answer what a night says, bring in a recorder's log",
    least: "technician",
    routes: [
      "POST /api/sites/[siteId]/alarms/[alarmId]",
      "POST /api/alarms",
      "POST /api/sites/[siteId]/mornings",
      "PATCH /api/sites/[siteId]/mornings",
    ],
  },
  {
    words: "Send to controllers, read them back, have them run, stop or learn",
    least: "technician",
    routes: [
      "POST /api/sites/[siteId]/controllers",
      "PATCH /api/sites/[siteId]/controllers",
      "POST /api/sites/[siteId]/controllers/read",
      "POST /api/sites/[siteId]/orders",
      "POST /api/sites/[siteId]/field/play",
      "POST /api/controllers",
      "POST /api/controllers/read",
      "POST /api/controllers/learn",
      "POST /api/controllers/learn/ready",
    ],
  },
  {
    words: "Keep the library and the kinds of controller",
    least: "technician",
    routes: [
      "POST /api/library",
      "POST /api/library/csv",
      "DELETE /api/library/[itemId]",
      "POST /api/profiles",
      "DELETE /api/profiles/[profileId]",
    ],
  },
  {
    words:
      "Put an earlier revision of a site back, archive a site and bring it back, delete one, take the file of a deleted one away",
    least: "manager",
    routes: [
      "POST /api/sites/[siteId]/revisions/[version]",
      "PATCH /api/sites/[siteId]/archive",
      "DELETE /api/sites/[siteId]/archive",
      "GET /api/organisation/deleted-sites",
      "GET /api/organisation/deleted-sites/[deletedId]",
    ],
  },
  {
    words: "Invite people, give them roles and sites, sign them out, take them out",
    least: "manager",
    routes: [
      "GET /api/people",
      "POST /api/people",
      "GET /api/people/[personId]",
      "PATCH /api/people/[personId]",
      "DELETE /api/people/[personId]",
      "DELETE /api/people/invitations/[invitationId]",
    ],
  },
  {
    words: "Sort sites by client, area and crew",
    least: "manager",
    routes: ["PATCH /api/sites/[siteId]/groups", "PATCH /api/groups/[groupId]"],
  },
  {
    words: "Give gateways their accounts, set the hour of reading back",
    least: "manager",
    routes: ["POST /api/sites/[siteId]/field", "DELETE /api/sites/[siteId]/field", "PATCH /api/controllers"],
  },
  {
    words: "See which letters were not sent, and have other systems told of alarms",
    least: "manager",
    routes: [
      "GET /api/organisation/told",
      "POST /api/webhooks",
      "PATCH /api/webhooks/[webhookId]",
      "DELETE /api/webhooks/[webhookId]",
    ],
  },
  {
    words:
      "Name the organisation, say what new sites begin with, write its checklists, see who did what, decide how long things are kept, export everything, erase the organisation",
    least: "manager",
    routes: [
      "GET /api/organisation",
      "PATCH /api/organisation",
      "PATCH /api/organisation/settings",
      "PATCH /api/organisation/visits",
      "POST /api/organisation/logo",
      "DELETE /api/organisation/logo",
      "DELETE /api/organisation",
      "GET /api/organisation/audit",
      "GET /api/organisation/audit/csv",
      "GET /api/organisation/everything",
    ],
  },
];
