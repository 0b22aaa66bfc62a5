import { collectDefaultMetrics, Gauge, Histogram, Registry } from "prom-client";
import { openStreams } from "./live/channel.ts";

type Metrics = { registry: Registry; requests: Histogram<"method" | "status"> };
const global = globalThis as typeof globalThis & { presaMetrics?: Metrics };

/** One set a process, whatever bundles ask for it. */
function metrics(): Metrics {
  if (global.presaMetrics) return global.presaMetrics;
  const registry = new Registry();
  collectDefaultMetrics({ register: registry, prefix: "presa_" });
  new Gauge({
    name: "presa_event_streams",
    help: "Event streams open",
    registers: [registry],
    collect() {
      this.set(openStreams());
    },
  });
  const requests = new Histogram({
    name: "presa_request_seconds",
    help: "Requests through the gate, by method and status",
    labelNames: ["method", "status"] as const,
    buckets: [0.01, 0.05, 0.15, 0.5, 2, 10, 30],
    registers: [registry],
  });
  global.presaMetrics = { registry, requests };
  return global.presaMetrics;
}

export function noteRequest(method: string, status: number, seconds: number): void {
  metrics().requests.observe({ method, status: String(status) }, seconds);
}

/** What Prometheus reads. */
export async function metricsText(): Promise<{ type: string; text: string }> {
  const { registry } = metrics();
  return { type: registry.contentType, text: await registry.metrics() };
}
