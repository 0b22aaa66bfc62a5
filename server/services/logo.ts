import { randomUUID } from "node:crypto";
import type { LogoFacts } from "../../contracts/logo.ts";
import { AppError } from "../app-error.ts";
import type { SignedIn } from "../auth/session.ts";
import { inTransaction } from "../db/connection.ts";
import { dropLogo, type LogoType, logoFacts, logoOf, setLogo } from "../db/logo.ts";
import { audited } from "./audited.ts";
import { typeByContent } from "./kept-files.ts";

export const LOGO_TOO_LARGE = "The picture is larger than 1 MB. A logo for paper is sharp with 800 dots across.";

/** Whether there is a logo, and since when. */
export const logoStands = (user: SignedIn): Promise<LogoFacts> => logoFacts(user.organisationId);

export async function logoPicture(user: SignedIn): Promise<{ type: LogoType; content: Buffer; version: string }> {
  const found = await logoOf(user.organisationId);
  if (!found) throw new AppError("notFound", "Your organisation has no logo.");
  return found;
}

/** Another logo, in the place of the one before; it is kept as it is. */
export async function changeLogo(user: SignedIn, content: Buffer): Promise<LogoFacts> {
  const type = typeByContent(content);
  if (type !== "image/png" && type !== "image/jpeg")
    throw new AppError(
      "badRequest",
      "A logo is a PNG or a JPEG. Save the picture as one of these and choose it again.",
    );
  const { organisationId, name: setBy } = user;
  await inTransaction(async () => {
    await setLogo({ organisationId, type, content, version: randomUUID(), setBy });
    await audited(user, "settingsChanged", "another logo");
  });
  return logoFacts(organisationId);
}

export async function takeLogoOut(user: SignedIn): Promise<LogoFacts> {
  await inTransaction(async () => {
    if (await dropLogo(user.organisationId)) await audited(user, "settingsChanged", "no logo");
  });
  return null;
}
