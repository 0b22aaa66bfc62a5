import { randomBytes } from "node:crypto";
import type { MqttClient } from "mqtt";
import { z } from "zod";
import { PROTOCOL, readJson, topicOf } from "../../core/field/messages.ts";
import { PROTOCOL_2 } from "../../core/field/orders.ts";
import { AppError } from "../app-error.ts";
import { connectAsPresa } from "./broker.ts";

/** The broker's own way of taking orders: mosquitto's dynamic security. */
const CONTROL = "$CONTROL/dynamic-security/v1";
const answers = z.object({
  responses: z.array(z.object({ command: z.string(), error: z.string().optional() })),
});
const ANSWER_MS = 5000;

export type GatewayAccount = { account: string; password: string };

/** A name that nobody guesses: it is the gateway's account and stands in its topics. */
export const newAccountName = (): string => `g-${randomBytes(15).toString("base64url").replace(/[-_]/g, "0")}`;

/**
 * Gives a gateway an account of its own at the broker: it can speak and hear its own topics and no others.
 *
 * @throws AppError "unavailable" where the broker does not answer or does not take it
 */
export async function openAccount(account: string): Promise<GatewayAccount> {
  const password = randomBytes(24).toString("base64url");
  const both = (acltype: string) =>
    [PROTOCOL, PROTOCOL_2].map((version) => ({ acltype, topic: `${version}/${account}/#`, allow: true }));
  await order([
    {
      command: "createRole",
      rolename: account,
      acls: ["publishClientSend", "publishClientReceive", "subscribePattern"].flatMap(both),
    },
    { command: "createClient", username: account, password, roles: [{ rolename: account }] },
  ]);
  return { account, password };
}

/** Takes an account away: whoever uses it is cut off at once, and what the broker kept for it is forgotten. */
export async function closeAccount(account: string): Promise<void> {
  await order(
    [
      { command: "deleteClient", username: account },
      { command: "deleteRole", rolename: account },
    ],
    async (client) => {
      for (const what of ["state", "site"] as const)
        await client.publishAsync(topicOf(account, what), "", { qos: 1, retain: true });
    },
  );
}

/** What is gone already, or there already, is as it was asked for. */
const AS_ASKED = /not found|already exists/i;

async function order(commands: object[], besides?: (client: MqttClient) => Promise<void>): Promise<void> {
  const client = connectAsPresa({ reconnectPeriod: 0 });
  try {
    const refused = await withinTime(ask(client, commands, besides));
    if (refused) throw new Error(refused);
  } catch (error) {
    if (error instanceof AppError) throw error;
    throw new AppError(
      "unavailable",
      `The broker for gateways does not take this now (${error instanceof Error ? error.message : "no reason"}). Nothing was changed; try again, or ask whoever runs Presa.`,
    );
  } finally {
    await client.endAsync(true).catch(() => {});
  }
}

async function ask(
  client: MqttClient,
  commands: object[],
  besides?: (client: MqttClient) => Promise<void>,
): Promise<string | null> {
  await new Promise<void>((resolve, reject) => {
    client.once("connect", () => resolve());
    client.on("error", reject);
    client.once("close", () => reject(new Error("it cannot be reached")));
  });
  await client.subscribeAsync(`${CONTROL}/response`, { qos: 1 });
  const answered = new Promise<string | null>((resolve) => {
    client.on("message", (_, payload) => {
      const read = readJson(answers, payload.toString());
      resolve(read?.responses.find((r) => r.error !== undefined && !AS_ASKED.test(r.error))?.error ?? null);
    });
  });
  await client.publishAsync(CONTROL, JSON.stringify({ commands }), { qos: 1 });
  const refused = await answered;
  if (refused === null) await besides?.(client);
  return refused;
}

function withinTime<T>(work: Promise<T>): Promise<T> {
  let timer: NodeJS.Timeout | undefined;
  const late = new Promise<never>((_, reject) => {
    timer = setTimeout(() => reject(new Error("it does not answer")), ANSWER_MS);
  });
  return Promise.race([work, late]).finally(() => clearTimeout(timer));
}
