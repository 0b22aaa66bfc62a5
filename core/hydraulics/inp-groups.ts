import type { InpLink, InpNetwork, InpNode, Unfit } from "./inp-parse.ts";

/** A stretch of the network that becomes one element of the waterworks: its links in flow order, from `begin`. */
export type Group = {
  key: string;
  kind: "poc" | "mainline";
  name: string;
  begin: string;
  links: InpLink[];
  feedNodes: string[];
  sourceNodes: string[];
};

const SOURCE_KINDS = new Set<InpNode["kind"]>(["reservoir", "tank"]);
export const isSource = (n: InpNode | undefined): boolean => n !== undefined && SOURCE_KINDS.has(n.kind);

/** The stretches as Presa wrote them into the tags, or, in a file of another program, as the network's own branches give them. */
export function groupsOf(network: InpNetwork, unfit: Unfit[]): Group[] {
  return network.links.length > 0 && network.links.every((l) => l.tag)
    ? taggedGroups(network)
    : foreignGroups(network, unfit);
}

/** Tag of a link: kind, subject, device, device kind, subject's name, device's name. */
function taggedGroups(network: InpNetwork): Group[] {
  const subjectOf = (node: string): string => {
    const tag = network.nodes.get(node)?.tag;
    return (tag?.[0] === "station" ? tag[2] : tag?.[1]) ?? "";
  };
  const sourceIds = new Set([...network.nodes.values()].filter(isSource).map((n) => n.tag?.[1] ?? n.id));
  const groups = new Map<string, Group>();
  for (const l of network.links) {
    const [, subject = "", , , name = ""] = l.tag ?? [];
    if (sourceIds.has(subject)) continue;
    const known = groups.get(subject) ?? {
      key: subject,
      kind: "mainline" as const,
      name,
      begin: "",
      links: [],
      feedNodes: [],
      sourceNodes: [],
    };
    groups.set(subject, known);
    const from = subjectOf(l.from);
    if (l.tag?.[0] === "joint" && from !== subject) {
      known.begin = l.to;
      if (sourceIds.has(from)) {
        known.kind = "poc";
        known.sourceNodes.push(l.from);
      } else known.feedNodes.push(l.from);
    } else if (l.tag?.[0] !== "bypass") known.links.push(l);
  }
  for (const n of network.nodes.values()) {
    // An element without a loss of its own has only its joint, and where nothing feeds it not even that.
    const subject = subjectOf(n.id);
    if (!isSource(n) && !sourceIds.has(subject) && !groups.has(subject))
      groups.set(subject, {
        key: subject,
        kind: "mainline",
        name: n.tag?.[3] ?? "",
        begin: n.id,
        links: [],
        feedNodes: [],
        sourceNodes: [],
      });
  }
  return [...groups.values()].map((g) => ({ ...g, links: inOrder(g.links, g.begin) }));
}

function inOrder(links: InpLink[], begin: string): InpLink[] {
  const from = new Map(links.map((l) => [l.from, l]));
  const ordered: InpLink[] = [];
  for (let at = begin; from.has(at) && ordered.length < links.length; ) {
    const l = from.get(at) as InpLink;
    ordered.push(l);
    at = l.to;
  }
  return ordered;
}

/** Points every link away from the water; where two ways meet, the network has a loop, which one-way feeds cannot fully say. */
function oriented(network: InpNetwork, unfit: Unfit[]): InpLink[] {
  const order = new Map<string, number>();
  const queue: string[] = [];
  const near = new Map<string, InpLink[]>();
  for (const l of network.links) for (const end of [l.from, l.to]) near.set(end, [...(near.get(end) ?? []), l]);
  const reach = (id: string): void => {
    if (order.has(id)) return;
    order.set(id, order.size);
    queue.push(id);
  };
  for (const n of network.nodes.values()) if (isSource(n)) reach(n.id);
  const sources = queue.length;
  for (let i = 0; i < queue.length; i++)
    for (const l of near.get(queue[i] as string) ?? []) {
      const other = l.from === queue[i] ? l.to : l.from;
      const against = l.to === queue[i] && (l.kind !== "pipe" || l.check);
      if (!against) reach(other);
    }
  for (const n of network.nodes.values())
    if (!order.has(n.id)) unfit.push({ code: "unreached", section: "JUNCTIONS", line: n.line, subject: n.id });
  const kept = network.links.flatMap((l) => {
    const [a, b] = [order.get(l.from), order.get(l.to)];
    if (a === undefined || b === undefined) return [];
    if (a < b) return [l];
    if (l.kind !== "pipe" || l.check) {
      unfit.push({ code: "checkValve", section: "PIPES", line: l.line, subject: l.id });
      return [];
    }
    return [{ ...l, from: l.to, to: l.from }];
  });
  const loops = kept.length - (order.size - sources);
  if (loops > 0) {
    const into = new Map<string, InpLink[]>();
    for (const l of kept) into.set(l.to, [...(into.get(l.to) ?? []), l]);
    for (const [node, ways] of into)
      if (ways.length > 1)
        for (const l of ways.slice(1))
          unfit.push({ code: "loop", section: "PIPES", line: l.line, subject: `${l.id} into ${node}` });
  }
  return kept.sort((x, y) => (order.get(x.from) as number) - (order.get(y.from) as number));
}

function foreignGroups(network: InpNetwork, unfit: Unfit[]): Group[] {
  const links = oriented(network, unfit);
  const outOf = new Map<string, InpLink[]>();
  const into = new Map<string, number>();
  for (const l of links) {
    outOf.set(l.from, [...(outOf.get(l.from) ?? []), l]);
    into.set(l.to, (into.get(l.to) ?? 0) + 1);
  }
  const through = (id: string): boolean =>
    (outOf.get(id) ?? []).length === 1 && into.get(id) === 1 && !isSource(network.nodes.get(id));
  const groups: Group[] = [];
  const used = new Set<InpLink>();
  for (const first of links.filter((l) => isSource(network.nodes.get(l.from)))) {
    const chain = [first];
    for (let at = first.to; through(at) && (network.nodes.get(at)?.demandLpm ?? 0) === 0; ) {
      const next = (outOf.get(at) as InpLink[])[0] as InpLink;
      chain.push(next);
      at = next.to;
    }
    const devices = chain.slice(0, chain.findLastIndex((l) => l.kind !== "pipe") + 1);
    for (const l of devices) used.add(l);
    // Without devices the connection still stands between the source and its main, at the main's beginning.
    groups.push({
      key: `poc ${first.id}`,
      kind: "poc",
      name: `Connection ${first.from}`,
      begin: first.from,
      links: devices,
      feedNodes: [],
      sourceNodes: [first.from],
    });
  }
  const ends = new Set(groups.map((g) => g.links.at(-1)?.to ?? g.begin));
  const start = (l: InpLink): boolean => ends.has(l.from) || !through(l.from) || l.kind !== "pipe";
  for (const first of links) {
    if (used.has(first)) continue;
    const chain = [first];
    used.add(first);
    for (let at = first.to; through(at); ) {
      const next = (outOf.get(at) as InpLink[])[0] as InpLink;
      if (used.has(next) || (start(next) && !(next.kind !== "pipe" && chain.every((l) => l.kind !== "pipe")))) break;
      chain.push(next);
      used.add(next);
      at = next.to;
    }
    groups.push({
      key: `main ${first.id}`,
      kind: "mainline",
      name: `Main ${first.id}`,
      begin: first.from,
      links: chain,
      feedNodes: [first.from],
      sourceNodes: [],
    });
  }
  return withMeetings(groups, into, network);
}

/** A node where several ways end and none goes on still needs an element, or its draw would hang on one of them only. */
function withMeetings(groups: Group[], into: Map<string, number>, network: InpNetwork): Group[] {
  const begins = new Set(groups.map((g) => g.begin));
  const meetings = [...into].filter(([id, n]) => n > 1 && !begins.has(id) && network.nodes.has(id));
  return [
    ...groups,
    ...meetings.map(([id]) => ({
      key: `meeting ${id}`,
      kind: "mainline" as const,
      name: `Meeting ${id}`,
      begin: id,
      links: [],
      feedNodes: [id],
      sourceNodes: [],
    })),
  ];
}
