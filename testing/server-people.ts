import { AppError } from "../server/app-error.ts";
import { hashPassword } from "../server/auth/password.ts";
import type { InSession } from "../server/auth/session.ts";
import { migrate } from "../server/db/connection.ts";
import { thisProcessIsTheOperators } from "../server/db/reach.ts";
import { beginSession, insertOrganisation, insertUser } from "../server/db/users.ts";

/** A migrated database with a manager, and one of another organisation. */
export async function twoPeople(): Promise<[InSession, InSession]> {
  thisProcessIsTheOperators();
  await migrate();
  await migrate();
  const passwordHash = await hashPassword("a password for tests");
  const person = async (organisation: string, name: string): Promise<InSession> => {
    const organisationId = await insertOrganisation(organisation);
    const email = `${name}-${organisationId}@test.example`;
    const userId = await insertUser({ organisationId, email, name, role: "manager", passwordHash });
    return {
      userId,
      organisationId,
      name,
      email,
      role: "manager",
      ownSitesOnly: false,
      sessionId: await beginSession({ id: userId, organisationId }),
    };
  };
  return [await person("Tests", "maren"), await person("Others", "stranger")];
}

/** The refusal that a piece of work ends in. */
export async function refusal(work: Promise<unknown>): Promise<AppError> {
  const thrown = await work.then(
    () => null,
    (e) => e,
  );
  if (!(thrown instanceof AppError)) throw new Error(`expected a refusal, got ${thrown}`);
  return thrown;
}
