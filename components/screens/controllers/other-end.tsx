"use client";
import { Activity, Hourglass, MoonStar, Unplug } from "lucide-react";
import { Button } from "@/components/kit/button";
import { useConventions } from "@/components/kit/conventions";
import type { ControllersStatus } from "@/contracts/controllers";

const STATE = {
  waiting: { icon: Hourglass, words: "waits for its first word" },
  live: { icon: Activity, words: "is heard" },
  silent: { icon: MoonStar, words: "is silent" },
  unreachable: { icon: Unplug, words: "cannot be reached" },
} as const;

const WHY: Record<string, string> = {
  malformed: "did not read",
  oversized: "were too long",
  replayed: "came again",
  late: "came too late",
  future: "were dated ahead",
};

/** Who is at the other end: whether the site's gateway is heard, what it takes, and what of either side's words was refused. */
export function OtherEnd({
  status,
  quiet,
  onSetUp,
}: {
  status: ControllersStatus;
  quiet: boolean;
  onSetUp: () => void;
}) {
  const ago = useAgo();
  if (status.speaks === "none" || status.state === null)
    return quiet ? null : (
      <div className="max-w-prose mb-3">
        <p className="mb-2">
          No gateway of this site has been heard. With one, Presa sends these settings to the controllers, reads back
          what they hold every night, runs stations, learns there and clears alarms at both ends. Without one, the setup
          sheet under Programs is carried there.
        </p>
        <Button onClick={onSetUp}>Set up a gateway</Button>
      </div>
    );
  const { icon: Icon, words } = STATE[status.state];
  const refused = Object.entries(status.refused).filter(([, n]) => n > 0);
  return (
    <div className="mb-3 flex flex-wrap items-center gap-x-6 gap-y-1 border-y border-base-300 py-1">
      <span className={`inline-flex items-center gap-1 font-semibold ${status.state === "live" ? "" : "text-warning"}`}>
        <Icon className="size-4 shrink-0" aria-hidden /> The gateway {words}
      </span>
      {status.heardAt && <span className="text-faint">last heard {ago(status.heardAt)}</span>}
      {status.speaks === "listenOnly" && (
        <span>It speaks the first version of the protocol: it tells what it reads and takes nothing.</span>
      )}
      {status.speaks === "orders" && <span className="text-faint">read back every night at {status.readBackAt}</span>}
      {status.simulated && <span>Simulated: it opens no real valves.</span>}
      {refused.length > 0 && (
        <span className="text-faint">
          of what it was told, {refused.map(([why, n]) => `${n} ${WHY[why] ?? why}`).join(", ")}
        </span>
      )}
      {status.setAside.count > 0 && (
        <span className="text-warning">
          {status.setAside.count} of its answers set aside: {status.setAside.words}
        </span>
      )}
    </div>
  );
}

/** How long ago, in a word or two. */
export function useAgo(): (iso: string) => string {
  const { dateAt } = useConventions();
  return (iso) => {
    const minutes = Math.round((Date.now() - Date.parse(iso)) / 60_000);
    if (minutes < 1) return "just now";
    if (minutes < 90) return `${minutes} min ago`;
    return minutes < 2880 ? `${Math.round(minutes / 60)} h ago` : `on ${dateAt(iso)}`;
  };
}
