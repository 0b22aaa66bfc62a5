import { createServer } from "node:http";
import { parseArgs } from "node:util";
import { simpleParser } from "mailparser";
import { SMTPServer } from "smtp-server";
import { type Letter, listPage } from "./list-page.ts";

const USAGE = `The mail catcher: takes every letter that is sent to it over SMTP and shows it, and sends none on. A stand-in for a mail server, on this machine only.

  --smtp N   port on which it takes letters (needed)
  --page N   port of its page: / is the list, /letters the same as JSON (needed)
`;
const { values } = parseArgs({
  options: {
    smtp: { type: "string" },
    page: { type: "string" },
    help: { type: "boolean" },
  },
});
if (values.help || !values.smtp || !values.page) {
  process.stdout.write(USAGE);
  process.exit(values.help ? 0 : 2);
}

/** The newest first; older ones go. */
const MOST = 500;
const letters: Letter[] = [];

const smtp = new SMTPServer({
  authOptional: true,
  disabledCommands: ["STARTTLS"],
  size: 1_000_000,
  onData(stream, session, done) {
    simpleParser(stream).then(
      ({ from, subject, text }) => {
        letters.unshift({
          at: new Date().toISOString(),
          from: from?.text ?? "",
          to: session.envelope.rcptTo.map((r) => r.address),
          subject: subject ?? "",
          text: text ?? "",
        });
        letters.length = Math.min(letters.length, MOST);
        done();
      },
      (error: Error) => done(error),
    );
  },
});
smtp.on("error", (error) => process.stderr.write(`${error.message}\n`));

const page = createServer((request, response) => {
  const json = request.url === "/letters";
  response.setHeader("content-type", json ? "application/json" : "text/html; charset=utf-8");
  response.end(json ? JSON.stringify(letters) : listPage(letters));
});

smtp.listen(Number(values.smtp), "127.0.0.1", () =>
  page.listen(Number(values.page), "127.0.0.1", () =>
    process.stdout.write(`Mail is caught on port ${values.smtp}; see http://127.0.0.1:${values.page}\n`),
  ),
);
const end = (): void => process.exit(0);
process.on("SIGTERM", end);
process.on("SIGINT", end);
