import { createHash, randomBytes } from "node:crypto";
import { z } from "zod";
import {
  emailAddress,
  type Joining,
  type MadeLink,
  newPassword,
  type PeopleView,
  type PersonAction,
  personName,
  type Role,
} from "../../contracts/people.ts";
import { AppError } from "../app-error.ts";
import { hashPassword } from "../auth/password.ts";
import { endAll, type InSession, type SignedIn, startSession } from "../auth/session.ts";
import { audit } from "../db/audit.ts";
import { inTransaction } from "../db/connection.ts";
import {
  insertInvitation,
  invitationBy,
  invitationUsed,
  openInvitations,
  peopleOf,
  sessionsOf,
  type UsableInvitation,
  withdraw,
  withdrawAllOf,
} from "../db/people.ts";
import { tell } from "../db/listen.ts";
import { asOperator } from "../db/reach.ts";
import { setSitesSeenBy, sitesSeenBy } from "../db/site-groups.ts";
import { siteNames } from "../db/sites.ts";
import { dropTwoFactor } from "../db/two-factor.ts";
import {
  endSessionsOf,
  type From,
  insertOrganisation,
  insertUser,
  lockPerson,
  setLeft,
  setPassword,
  setRole,
  type UserRow,
  userByEmail,
  userById,
} from "../db/users.ts";
import { audited } from "./audited.ts";

const newOrganisation = z.strictObject({
  organisation: z.string().trim().min(1, "An organisation needs a name.").max(200),
  manager: z.string().trim().min(1, "Its manager needs a name.").max(200),
  email: emailAddress,
  password: newPassword,
});

/** A new organisation with its first manager, as the operator sets it up. */
export async function addOrganisation(asked: z.input<typeof newOrganisation>): Promise<{ organisationId: string }> {
  const { organisation, manager, email, password } = newOrganisation.parse(asked);
  const passwordHash = await hashPassword(password);
  return inTransaction(async () => {
    if (await userByEmail(email)) throw new AppError("conflict", `${email} signs in to an organisation already.`);
    const organisationId = await insertOrganisation(organisation);
    await insertUser({ organisationId, email, name: manager, role: "manager", passwordHash });
    return { organisationId };
  });
}

export async function peopleView(user: SignedIn, now: Date): Promise<PeopleView> {
  const [people, invitations] = await Promise.all([
    peopleOf(user.organisationId),
    openInvitations(user.organisationId, now),
  ]);
  return { people, invitations };
}

// ---- links that work once ------------------------------------------------------------------------------------------

const DAY_MS = 86_400_000;
const LASTS_MS = { join: 7 * DAY_MS, password: DAY_MS };
const TOKEN_BYTES = 32;
const digestOf = (token: string): Buffer => createHash("sha256").update(token).digest();

/** A link with which somebody joins in a role. Another one for the same address takes its place. */
export async function invite(user: SignedIn, asked: { email: string; role: Role }, now: Date): Promise<MadeLink> {
  const email = asked.email.trim().toLowerCase();
  if (await userByEmail(email))
    throw new AppError("conflict", `${email} signs in already. One address belongs to one organisation.`);
  return inTransaction(async () => {
    const made = await makeLink(user, { email, role: asked.role, userId: null }, now, LASTS_MS.join);
    await audited(user, "invited", `${email}, ${asked.role}`);
    return made;
  });
}

async function makeLink(
  user: SignedIn,
  of: { email: string; role: Role | null; userId: string | null },
  now: Date,
  lastsMs: number,
): Promise<MadeLink> {
  const token = randomBytes(TOKEN_BYTES).toString("base64url");
  const expiresAt = new Date(now.getTime() + lastsMs);
  const { organisationId, userId: madeBy } = user;
  await insertInvitation({ ...of, organisationId, tokenDigest: digestOf(token), madeBy, expiresAt });
  return { token, expiresAt: expiresAt.toISOString() };
}

export async function withdrawInvitation(user: SignedIn, id: string): Promise<void> {
  await inTransaction(async () => {
    const email = await withdraw(user.organisationId, id);
    if (email === null) throw new AppError("notFound", "That invitation was used or withdrawn already.");
    await audited(user, "withdrewInvitation", email);
  });
}

const noLink = (): AppError =>
  new AppError("notFound", "This link was used, withdrawn or is too old. Ask whoever sent it for another one.");

/** What a link leads to, for whoever holds it. */
export async function joiningOf(token: string, now: Date): Promise<Joining> {
  const link = await invitationBy(digestOf(token), now);
  if (!link) throw noLink();
  const { organisation, email } = link;
  const person = link.userId === null ? null : await userById(link.userId);
  return { organisation, email, role: person?.role ?? link.role ?? "viewer", name: person?.name ?? null };
}

/** Uses a link: somebody new joins, or somebody who is here has another password and is signed out everywhere else. Signed in from here on. */
export async function joinBy(
  token: string,
  asked: { name?: string | undefined; password: string },
  from: From,
  now: Date,
): Promise<InSession> {
  // Before a password is hashed, which takes long: whoever holds no link costs nothing.
  if (!(await invitationBy(digestOf(token), now))) throw noLink();
  const passwordHash = await hashPassword(asked.password);
  const { person, ended } = await asOperator(() =>
    inTransaction(async () => {
      const link = await invitationBy(digestOf(token), now, true);
      if (!link) throw noLink();
      const done =
        link.userId === null ? await joins(link, asked.name, passwordHash) : await choosesAgain(link, passwordHash);
      await invitationUsed(link.id, done.person.id, now);
      const { id: userId, organisationId, name: who } = done.person;
      const what = link.userId === null ? "joined" : "passwordChanged";
      await audit({ organisationId, userId, who, what, address: from.address });
      return done;
    }),
  );
  await endAll(ended);
  return startSession(person, from);
}

type Done = { person: UserRow; ended: string[] };

async function joins(link: UsableInvitation, asked: string | undefined, passwordHash: string): Promise<Done> {
  const { organisationId, email } = link;
  const name = personName.parse(asked ?? "");
  if (await userByEmail(email)) throw new AppError("conflict", `${email} signs in already. Sign in instead.`);
  const id = await insertUser({ organisationId, email, name, role: link.role ?? "viewer", passwordHash });
  return {
    person: {
      id,
      organisationId,
      email,
      name,
      role: link.role ?? "viewer",
      passwordHash,
      ownSitesOnly: false,
      theme: null,
      language: null,
    },
    ended: [],
  };
}

async function choosesAgain(link: UsableInvitation, passwordHash: string): Promise<Done> {
  const person = await userById(link.userId ?? "");
  if (!person || person.email !== link.email) throw noLink();
  await setPassword(person.id, passwordHash);
  return { person, ended: await endSessionsOf(person.id) };
}

// ---- what managers do about people ---------------------------------------------------------------------------------

const lastManager = (): AppError =>
  new AppError("conflict", "There has to be a manager. Make somebody else one first.");

/** @returns the link where one was asked for */
export async function actOnPerson(
  user: SignedIn,
  personId: string,
  asked: PersonAction,
  now: Date,
): Promise<MadeLink | null> {
  const { link, ended } = await inTransaction(async () => {
    const { person, managers } = await lockPerson(user.organisationId, personId);
    if (!person) throw new AppError("notFound", "There is no such person here.");
    switch (asked.action) {
      case "role":
        if (person.role === "manager" && asked.role !== "manager" && managers <= 1) throw lastManager();
        await setRole(person.id, asked.role);
        await audited(user, "roleChanged", `${person.name}: ${person.role} → ${asked.role}`);
        return { link: null, ended: [] };
      case "signOut":
        await audited(user, "sessionsEnded", person.name);
        return { link: null, ended: await endSessionsOf(person.id) };
      case "newPassword":
        await audited(user, "passwordLink", person.name);
        return {
          link: await makeLink(user, { email: person.email, role: null, userId: person.id }, now, LASTS_MS.password),
          ended: [],
        };
      case "dropTwoFactor":
        if (!(await dropTwoFactor(person.id))) throw new AppError("conflict", "They have no second step.");
        await audited(user, "twoFactorOff", person.name);
        return { link: null, ended: [] };
      case "sites":
        await giveSites(user, person, asked.siteIds);
        return { link: null, ended: [] };
    }
  });
  await endAll(ended);
  // Their streams begin anew, with what they see from now on.
  if (asked.action === "sites")
    for (const { id } of await sessionsOf(personId)) await tell(`session_${id}`, { type: "again" });
  return link;
}

async function giveSites(user: SignedIn, person: UserRow, siteIds: string[] | null): Promise<void> {
  if (person.role === "manager" && siteIds !== null)
    throw new AppError("conflict", "A manager sees all sites. Give them another role first.");
  const there = new Set((await siteNames(user.organisationId)).map((s) => s.id));
  if (siteIds?.some((id) => !there.has(id)))
    throw new AppError("notFound", "One of these sites is not there any more. Load the page again.");
  await setSitesSeenBy(user.organisationId, person.id, siteIds && [...new Set(siteIds)]);
  await audited(user, "sitesGiven", `${person.name}: ${siteIds === null ? "all" : siteIds.length}`);
}

/** Which sites somebody sees; null: all. */
export async function sitesOfPerson(user: SignedIn, personId: string): Promise<{ siteIds: string[] | null }> {
  const siteIds = await sitesSeenBy(user.organisationId, personId);
  if (siteIds === undefined) throw new AppError("notFound", "There is no such person here.");
  return { siteIds };
}

/** Somebody leaves, or is taken out by a manager: signed out everywhere at once; what they did stays theirs. */
export async function leave(user: SignedIn, personId: string): Promise<void> {
  const ended = await inTransaction(async () => {
    const { person, managers } = await lockPerson(user.organisationId, personId);
    if (!person) throw new AppError("notFound", "There is no such person here.");
    if (person.role === "manager" && managers <= 1) throw lastManager();
    await withdrawAllOf(person.id);
    await dropTwoFactor(person.id);
    await setLeft(person);
    await audited(user, person.id === user.userId ? "left" : "tookOut", person.name);
    return endSessionsOf(person.id);
  });
  await endAll(ended);
}
