import { z } from "zod";
import { AppError } from "../app-error.ts";
import { hashPassword } from "../auth/password.ts";
import { inTransaction } from "../db/connection.ts";
import { insertOrganisation, insertUser, userByEmail } from "../db/users.ts";

/** Nobody guesses so many, and anybody can remember them as a few words. */
const LEAST_PASSWORD = 12;
const newOrganisation = z.strictObject({
  organisation: z.string().trim().min(1, "An organisation needs a name.").max(200),
  manager: z.string().trim().min(1, "Its manager needs a name.").max(200),
  email: z.email("That is no e-mail address.").max(200),
  password: z.string().min(LEAST_PASSWORD, `A password has at least ${LEAST_PASSWORD} characters.`).max(200),
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
