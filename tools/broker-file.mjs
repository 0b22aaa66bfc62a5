// What mosquitto's dynamic security begins with: one account, Presa's, which gives gateways theirs and hears them all.
//   node tools/broker-file.mjs NAME < PASSWORD > dynamic-security.json      (the format is mosquitto's own)
import { pbkdf2Sync, randomBytes } from "node:crypto";
import { text } from "node:stream/consumers";

const ITERATIONS = 20_000;
const [name] = process.argv.slice(2);
const password = (await text(process.stdin)).trim();
if (!name || password.length < 20) {
  console.error("A name, and on standard input a password of 20 letters at least.");
  process.exit(2);
}
const salt = randomBytes(12);
const may = (acltype, topic) => ({ acltype, topic, allow: true, priority: 0 });
const everywhere = ["presa/#", "$CONTROL/dynamic-security/#"];
const file = {
  defaultACLAccess: { publishClientSend: false, publishClientReceive: false, subscribe: false, unsubscribe: true },
  roles: [
    {
      rolename: "presa",
      acls: everywhere.flatMap((topic) => [
        may("publishClientSend", topic),
        may("publishClientReceive", topic),
        may("subscribePattern", topic),
      ]),
    },
  ],
  clients: [
    {
      username: name,
      textname: "Presa itself",
      roles: [{ rolename: "presa" }],
      password: pbkdf2Sync(password, salt, ITERATIONS, 64, "sha512").toString("base64"),
      salt: salt.toString("base64"),
      iterations: ITERATIONS,
    },
  ],
  groups: [],
};
process.stdout.write(`${JSON.stringify(file, null, 2)}\n`);
