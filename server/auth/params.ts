import { z } from "zod";
import { PAPERS } from "../../contracts/paper.ts";

/** Parts of an address, by what they name; one that cannot be an id names nothing. */
const id = z.guid();
export const ofSite = z.strictObject({ siteId: id });
export const ofAlarm = z.strictObject({ siteId: id, alarmId: id });
export const ofRun = z.strictObject({ siteId: id, runId: id });
export const ofStation = z.strictObject({ siteId: id, stationId: z.string().min(1).max(200) });
export const ofRevision = z.strictObject({ siteId: id, version: z.coerce.number().int().min(1).max(2_000_000_000) });
export const ofFile = z.strictObject({ siteId: id, fileId: id });
export const ofPhoto = z.strictObject({ entryId: id });
export const ofItem = z.strictObject({ itemId: id });
export const ofProfile = z.strictObject({ profileId: id });
export const ofDeleted = z.strictObject({ deletedId: id });
export const ofReading = z.strictObject({ siteId: id, readingId: id });
export const ofWebhook = z.strictObject({ webhookId: id });
export const ofView = z.strictObject({ viewId: id });
export const ofGroup = z.strictObject({ groupId: id });
export const ofDeed = z.strictObject({ deedId: id });
export const ofPerson = z.strictObject({ personId: id });
export const ofInvitation = z.strictObject({ invitationId: id });
export const ofSession = z.strictObject({ sessionId: id });
export const ofVisit = z.strictObject({ siteId: id, visitId: id });
export const ofTodo = z.strictObject({ siteId: id, todoId: id });
export const ofDone = z.strictObject({ siteId: id, doneId: id });
export const ofPaper = z.strictObject({ siteId: id, kind: z.enum(PAPERS) });
