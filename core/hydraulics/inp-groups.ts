import { got } from "../checked.ts";
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
    const l = got(from, at);
    ordered.push(l);
    at = l.to;
  }
  return ordered;
}

/** Points every link away from the water; where two ways meet, the network has a loop, which one-way feeds cannot fully say. */
function oriented(network: InpNetwork, unfit: Unfit[]): InpLink[] {
  const order = byReach(network);
  for (const n of network.nodes.values())
    if (!order.has(n.id)) unfit.push({ code: "unreached", section: "JUNCTIONS", line: n.line, subject: n.id });
  const kept = network.links.flatMap((l) => {
    const [a, b] = [order.get(l.from), order.get(l.to)];
    if (a === undefined || b === undefined) return [];
    if (a < b) return [l];
    if (isOneWay(l)) {
      unfit.push({ code: "checkValve", section: "PIPES", line: l.line, subject: l.id });
      return [];
    }
    return [{ ...l, from: l.to, to: l.from }];
  });
  const sources = [...network.nodes.values()].filter(isSource).length;
  if (kept.length > order.size - sources) unfit.push(...loopsIn(kept));
  return kept.sort((x, y) => (order.get(x.from) ?? 0) - (order.get(y.from) ?? 0));
}

const isOneWay = (l: InpLink): boolean => l.kind !== "pipe" || l.check;

/** Nodes in the order in which water from the sources reaches them. */
function byReach(network: InpNetwork): Map<string, number> {
  const near = new Map<string, InpLink[]>();
  for (const l of network.links) for (const end of [l.from, l.to]) near.set(end, [...(near.get(end) ?? []), l]);
  const reached = [...network.nodes.values()].filter(isSource).map((n) => n.id);
  const order = new Map(reached.map((id, i) => [id, i]));
  for (const at of reached)
    for (const l of near.get(at) ?? []) {
      const other = l.from === at ? l.to : l.from;
      if (order.has(other) || (l.to === at && isOneWay(l))) continue;
      order.set(other, order.size);
      reached.push(other);
    }
  return order;
}

/** Every further way into a node that has one already. */
function loopsIn(links: readonly InpLink[]): Unfit[] {
  const into = new Map<string, InpLink[]>();
  for (const l of links) into.set(l.to, [...(into.get(l.to) ?? []), l]);
  return [...into].flatMap(([node, ways]) =>
    ways
      .slice(1)
      .map((l): Unfit => ({ code: "loop", section: "PIPES", line: l.line, subject: `${l.id} into ${node}` })),
  );
}

function foreignGroups(network: InpNetwork, unfit: Unfit[]): Group[] {
  const links = oriented(network, unfit);
  const outOf = new Map<string, InpLink[]>();
  const into = new Map<string, number>();
  for (const l of links) {
    outOf.set(l.from, [...(outOf.get(l.from) ?? []), l]);
    into.set(l.to, (into.get(l.to) ?? 0) + 1);
  }
  /** The one link that goes on from a node that nothing else joins. */
  const onward = (id: string): InpLink | undefined => {
    const ways = outOf.get(id) ?? [];
    return ways.length === 1 && into.get(id) === 1 && !isSource(network.nodes.get(id)) ? ways[0] : undefined;
  };
  const connections = links
    .filter((l) => isSource(network.nodes.get(l.from)))
    .map((first) => connectionGroup(network, first, onward));
  const mains = mainGroups(links, connections, onward);
  return withMeetings([...connections, ...mains], into, network);
}

type Onward = (node: string) => InpLink | undefined;

/** What stands between a source and its main: up to the last piece that is no pipe, as far as nothing is drawn. */
function connectionGroup(network: InpNetwork, first: InpLink, onward: Onward): Group {
  const chain = [first];
  for (let next = onward(first.to); next && drawsNothing(network, next.from); next = onward(next.to)) chain.push(next);
  return {
    key: `poc ${first.id}`,
    kind: "poc",
    name: `Connection ${first.from}`,
    begin: first.from,
    // Without devices the connection still stands between the source and its main, at the main's beginning.
    links: chain.slice(0, chain.findLastIndex((l) => l.kind !== "pipe") + 1),
    feedNodes: [],
    sourceNodes: [first.from],
  };
}

const drawsNothing = (network: InpNetwork, node: string): boolean => (network.nodes.get(node)?.demandLpm ?? 0) === 0;

/** The rest of the links in mains, each as long as nothing joins it, branches off or begins a piece that is no pipe. */
function mainGroups(links: readonly InpLink[], connections: readonly Group[], onward: Onward): Group[] {
  const used = new Set(connections.flatMap((g) => g.links));
  const ends = new Set(connections.map((g) => g.links.at(-1)?.to ?? g.begin));
  const begins = (l: InpLink): boolean => ends.has(l.from) || !onward(l.from) || l.kind !== "pipe";
  const goesOn = (chain: readonly InpLink[], next: InpLink | undefined): next is InpLink => {
    if (!next || used.has(next)) return false;
    return !begins(next) || (next.kind !== "pipe" && chain.every((l) => l.kind !== "pipe"));
  };
  return links.flatMap((first): Group[] => {
    if (used.has(first)) return [];
    const chain = [first];
    used.add(first);
    for (let next = onward(first.to); goesOn(chain, next); next = onward(next.to)) {
      chain.push(next);
      used.add(next);
    }
    return [
      {
        key: `main ${first.id}`,
        kind: "mainline",
        name: `Main ${first.id}`,
        begin: first.from,
        links: chain,
        feedNodes: [first.from],
        sourceNodes: [],
      },
    ];
  });
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
