import { randomUUID } from "node:crypto";
import { connect, type IClientOptions, type MqttClient } from "mqtt";
import { topicOf } from "../../core/field/messages.ts";
import { type Answer, ANSWERS, orderTopic } from "../../core/field/orders.ts";
import { AppError } from "../app-error.ts";

/**
 * The broker that all gateways of this installation speak through, with Presa's own account in its address (MQTT_URL). Whoever runs Presa sets it; nobody who uses
 * Presa chooses an address it connects to.
 */
export function brokerUrl(): string | null {
  return process.env["MQTT_URL"] || null;
}

/** Where gateways find the broker (MQTT_PUBLIC_URL, else MQTT_URL without its account). */
export function publicBrokerUrl(): string | null {
  const given = process.env["MQTT_PUBLIC_URL"];
  if (given) return given;
  const own = brokerUrl();
  if (own === null) return null;
  const url = new URL(own);
  url.username = "";
  url.password = "";
  return url.href.replace(/\/$/, "");
}

export function connectAsPresa(options: IClientOptions = {}): MqttClient {
  const url = brokerUrl();
  if (url === null)
    throw new AppError(
      "unavailable",
      "No broker is set up for gateways here. Whoever runs Presa sets one (MQTT_URL, see the README).",
    );
  return connect(url, {
    clean: true,
    reconnectPeriod: 1000,
    connectTimeout: 5000,
    clientId: `presa-${randomUUID()}`,
    ...options,
  });
}

const SAID = ["state", "data"] as const;
type Said = (typeof SAID)[number] | Answer;
type Hears = (what: Said, payload: Buffer) => void;
const heardOf = (account: string): string[] => [
  ...SAID.map((what) => topicOf(account, what)),
  ...ANSWERS.map((what) => orderTopic(account, what)),
];

/** What a recorder process has with the broker: one connection over which every gateway it records is heard. */
export class Broker {
  private readonly client: MqttClient;
  private readonly hears = new Map<string, Hears>();
  /** Counts connections: what is retained has to be said again after each. */
  connections = 0;

  constructor() {
    this.client = connectAsPresa();
    this.client.on("connect", () => {
      this.connections++;
      for (const account of this.hears.keys()) this.subscribe(account);
    });
    // It tries again by itself; whether it is connected is asked for.
    this.client.on("error", () => {});
    this.client.on("message", (topic, payload) => {
      const [, , account, what] = topic.split("/");
      this.hears.get(account ?? "")?.(what as Said, payload);
    });
  }

  get connected(): boolean {
    return this.client.connected;
  }

  hear(account: string, hears: Hears): void {
    this.hears.set(account, hears);
    if (this.connected) this.subscribe(account);
  }

  leave(account: string): void {
    this.hears.delete(account);
    if (this.connected) this.client.unsubscribe(heardOf(account));
  }

  say(account: string, what: "play" | "site" | "ask", payload: string, retain = false): void {
    if (this.connected) this.client.publish(topicOf(account, what), payload, { qos: 1, retain });
  }

  /** Settings and orders, of the second version of the protocol. */
  order(account: string, what: "settings" | "do", payload: string): void {
    if (this.connected) this.client.publish(orderTopic(account, what), payload, { qos: 1 });
  }

  async end(): Promise<void> {
    await this.client.endAsync(true).catch(() => {});
  }

  private subscribe(account: string): void {
    this.client.subscribe(heardOf(account), { qos: 1 });
  }
}
