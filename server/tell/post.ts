import { createTransport, type Transporter } from "nodemailer";
import { WAITS_MIN } from "../../core/tell/letters.ts";
import { type LetterToSend, letterOutcome, noteUnsure, takeLetters } from "../db/telling.ts";
import { log } from "../log.ts";

const AT_ONCE = 20;
/** A mail server that says nothing for so long is taken for gone, ms. */
const STALLS_MS = 20_000;

/** Where mail goes, as the operator has set it (README): PRESA_SMTP_URL, and from whom, PRESA_MAIL_FROM. */
export const mailIsSet = (): boolean => Boolean(process.env["PRESA_SMTP_URL"]);

let transport: { url: string; mailer: Transporter } | null = null;
function mailer(): Transporter {
  const url = process.env["PRESA_SMTP_URL"] ?? "";
  if (transport?.url !== url)
    transport = {
      url,
      mailer: createTransport(url, {
        from: process.env["PRESA_MAIL_FROM"] ?? "Presa <presa@localhost>",
      }),
    };
  return transport.mailer;
}

/**
 * Sends the letters whose time has come. Each is taken by one sender and never sent again once it was on its way; one that the server does not take now is tried again with
 * growing waits, and then given up and seen.
 *
 * @returns how many were sent
 */
export async function sendLetters(now: Date): Promise<number> {
  if (!mailIsSet()) return 0;
  await noteUnsure();
  let sent = 0;
  for (;;) {
    const letters = await takeLetters(AT_ONCE);
    for (const letter of letters) if (await sendOne(letter, now)) sent++;
    if (letters.length < AT_ONCE) return sent;
  }
}

async function sendOne(letter: LetterToSend, now: Date): Promise<boolean> {
  try {
    await withinTime(
      mailer().sendMail({
        to: letter.email,
        subject: letter.subject,
        text: letter.body,
        ...(letter.replyTo ? { replyTo: letter.replyTo } : {}),
        ...(letter.attachment
          ? { attachments: [{ filename: letter.attachmentName ?? "sheet.pdf", content: letter.attachment }] }
          : {}),
        messageId: `<${letter.id}@presa>`,
        // Programs that answer by themselves leave it alone.
        headers: { "Auto-Submitted": "auto-generated" },
      }),
    );
  } catch (error) {
    const words = error instanceof Error ? error.message : String(error);
    await letterOutcome(letter.id, words, againAt(error, letter.tries, now));
    // Without the error itself, which names who was written to.
    log.warn({ letter: letter.id, organisation: letter.organisationId, problem: words }, "a letter was not sent");
    return false;
  }
  await letterOutcome(letter.id, null, null);
  return true;
}

/** A refusal for good is not tried again. */
function againAt(error: unknown, tries: number, now: Date): Date | null {
  const code = (error as { responseCode?: number }).responseCode ?? 0;
  const wait = WAITS_MIN[tries - 1];
  return code >= 500 || wait === undefined ? null : new Date(now.getTime() + wait * 60_000);
}

async function withinTime<T>(work: Promise<T>): Promise<T> {
  let timer: NodeJS.Timeout | undefined;
  const late = new Promise<never>((_, no) => {
    timer = setTimeout(() => no(new Error(`The mail server said nothing for ${STALLS_MS / 1000} s.`)), STALLS_MS);
  });
  try {
    return await Promise.race([work, late]);
  } finally {
    clearTimeout(timer);
  }
}
