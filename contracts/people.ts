import { z } from "zod";

export const role = z.enum(["manager", "technician", "viewer"]);
export type Role = z.infer<typeof role>;

/** Nobody guesses so many, and anybody can remember them as a few words. */
export const LEAST_PASSWORD = 12;
export const newPassword = z
  .string()
  .min(LEAST_PASSWORD, `A password has at least ${LEAST_PASSWORD} characters; a few words are easy to remember.`)
  .max(200, "A password has at most 200 characters.");
export const personName = z.string().trim().min(1, "A name is needed.").max(200, "A name has at most 200 characters.");
export const emailAddress = z.email("Write the whole address, like name@example.org.").max(200);

/** Of a session: where and since when somebody is signed in. */
export type SessionView = {
  id: string;
  madeAt: string;
  seenAt: string;
  address: string | null;
  agent: string | null;
  here: boolean;
};

/** Somebody of the organisation, as its managers see them. */
export type Person = {
  id: string;
  name: string;
  email: string;
  role: Role;
  /** Null: signed in nowhere now. */
  seenAt: string | null;
  twoFactor: boolean;
  /** How many sites they see; null: all. */
  sites: number | null;
  /** They have gone; what they did stays theirs. */
  leftAt: string | null;
};
export type Invitation = {
  id: string;
  email: string;
  /** Null: for another password of somebody who is here. */
  role: Role | null;
  madeBy: string;
  madeAt: string;
  expiresAt: string;
};
export type PeopleView = { people: Person[]; invitations: Invitation[] };

export const inviteRequest = z.strictObject({ email: emailAddress, role });
/** What stands in the address of a link that works once. It is told once, to whoever made it. */
export type MadeLink = { token: string; expiresAt: string };

/** What a manager does about somebody: another role, signed out everywhere, a link for another password, the second factor taken off, which sites they see. */
export const personAction = z.discriminatedUnion("action", [
  z.strictObject({ action: z.literal("role"), role }),
  z.strictObject({ action: z.literal("signOut") }),
  z.strictObject({ action: z.literal("newPassword") }),
  z.strictObject({ action: z.literal("dropTwoFactor") }),
  /** Null: all. */
  z.strictObject({ action: z.literal("sites"), siteIds: z.array(z.guid()).max(10_000).nullable() }),
]);
export type PersonAction = z.infer<typeof personAction>;

/** What a link leads to. `name` where somebody who is here chooses another password. */
export type Joining = { organisation: string; email: string; role: Role; name: string | null };
export const joinRequest = z.strictObject({ name: personName.optional(), password: newPassword });

/** One's own account. */
export type AccountView = {
  id: string;
  name: string;
  email: string;
  role: Role;
  organisation: string;
  twoFactor: boolean;
  recoveryCodesLeft: number;
  sessions: SessionView[];
};
/** As daisyUI knows them. */
export const theme = z.enum(["day", "night"]);
export type Theme = z.infer<typeof theme>;

/** Languages that dates are written in. */
export const language = z.enum(["en", "es"]);
export type Language = z.infer<typeof language>;
export const LANGUAGE_WORDS: Record<Language, string> = { en: "English", es: "Español" };

export const accountChange = z.union([
  z.strictObject({ theme }),
  z.strictObject({ language }),
  z.strictObject({ name: personName }),
  z.strictObject({ password: newPassword, current: z.string().min(1, "Your present password is needed.").max(200) }),
]);
export const ownPassword = z.strictObject({ password: z.string().min(1, "Your password is needed.").max(200) });
/** Six figures from the phone; spaces are passed over. */
export const codeRequest = z.strictObject({ code: z.string().min(1).max(40) });
/** What an authenticator is set up with: as an address that it reads from a picture, and to be typed. */
export type TwoFactorBegun = { uri: string; secret: string };
export type RecoveryCodes = { recoveryCodes: string[] };
