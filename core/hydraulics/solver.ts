import { ActionCodeType, AnalysisStatistic, InitHydOption, LinkProperty, LinkType, NodeProperty, Project, Workspace } from "epanet-js";
import { KPA_PER_METRE_OF_WATER } from "../units/units.ts";
import { needsCheck, waysIn, writeInp } from "./inp-write.ts";
import type { HydraulicModel } from "./network-model.ts";

/** What runs at one moment: each station's draw in L/min by place in the file, and the links that are shut. */
export type NetworkSet = { stationLpm: number[]; closedLinks: Set<number> };
export type SolvedSet = {
  /** Head at every node, m. */
  headM: number[];
  /** Flow through every link, L/min, in its own direction. */
  linkLpm: number[];
  /** The demand cannot be met as asked, or no balance was found; the pressures then mean nothing. */
  unbalanced: boolean;
};

let workspace: Promise<Workspace> | null = null;

async function engine(): Promise<Workspace> {
  workspace ??= (async () => {
    const made = new Workspace();
    await made.loadModule();
    return made;
  })();
  return workspace;
}

/** Sum of flow corrections ÷ sum of flows at which the balance is found. */
const ACCURACY = 1e-4;

/**
 * Pressures and flows of the network for each set, by the network solver (EPANET 2.2: gradient method, Hazen–Williams). Draws are
 * as given, whatever the pressure; a pressure below what a station needs says that it cannot be had. The network is
 * loaded once for all sets.
 */
export async function solveSets(model: HydraulicModel, sets: NetworkSet[]): Promise<SolvedSet[]> {
  if (model.nodes.length === 0 || model.links.length === 0 || !model.nodes.some((n) => n.kind === "junction")) return sets.map(() => ({ headM: model.nodes.map((n) => n.headM ?? n.elevationM), linkLpm: model.links.map(() => 0), unbalanced: false }));
  const project = new Project(await engine());
  const { text, nodeIds, linkIds } = writeInp(model, "Presa");
  const name = `presa${++opened}`;
  (await engine()).writeFile(`${name}.inp`, text);
  project.open(`${name}.inp`, `${name}.rpt`, "");
  try {
    const node = nodeIds.map((id) => project.getNodeIndex(id));
    const link = linkIds.map((id) => project.getLinkIndex(id));
    let shut = new Set<number>();
    project.openH();
    return sets.map((set) => {
      const joints = new Set([...set.closedLinks].filter((i) => model.links[i]?.kind === "joint"));
      if (joints.size !== shut.size || [...joints].some((i) => !shut.has(i))) {
        shutJoints(project, model, link, shut, joints);
        shut = joints;
      }
      return solveOne(project, model, node, link, set);
    });
  } finally {
    project.close();
  }
}

let opened = 0;

/** A one-way pipe has no status of its own: to shut it, it becomes a plain pipe that is closed. Only between hydraulic runs. */
function shutJoints(project: Project, model: HydraulicModel, link: number[], before: Set<number>, after: Set<number>): void {
  const ways = waysIn(model);
  const oneWay = (i: number): boolean => needsCheck(model.links[i] as HydraulicModel["links"][number], ways);
  project.closeH();
  for (const i of before) if (!after.has(i)) {
    project.setLinkValue(link[i] as number, LinkProperty.InitStatus, 1);
    if (oneWay(i)) project.setLinkType(link[i] as number, LinkType.CVPipe, ActionCodeType.Unconditional);
  }
  for (const i of after) if (!before.has(i)) {
    if (oneWay(i)) project.setLinkType(link[i] as number, LinkType.Pipe, ActionCodeType.Unconditional);
    project.setLinkValue(link[i] as number, LinkProperty.InitStatus, 0);
  }
  project.openH();
}

function solveOne(project: Project, model: HydraulicModel, node: number[], link: number[], set: NetworkSet): SolvedSet {
  const draw = new Map<number, number>();
  model.stationNode.forEach((n, s) => { if (n >= 0) draw.set(n, (draw.get(n) ?? 0) + (set.stationLpm[s] ?? 0)); });
  for (const [n, lpm] of draw) project.setNodeValue(node[n] as number, NodeProperty.BaseDemand, lpm);
  model.links.forEach((l, i) => {
    if (l.kind === "pump") project.setLinkValue(link[i] as number, LinkProperty.InitStatus, set.closedLinks.has(i) ? 0 : 1);
  });
  project.initH(InitHydOption.InitFlow);
  quietly(() => project.runH());
  const unbalanced = project.getStatistic(AnalysisStatistic.RelativeError) > ACCURACY;
  return {
    headM: node.map((n) => project.getNodeValue(n, NodeProperty.Head)),
    linkLpm: link.map((l) => project.getLinkValue(l, LinkProperty.Flow)),
    unbalanced,
  };
}

/** The library prints its warnings; here they are data (`unbalanced`, pressures under 0), so its printing is held back. */
function quietly(work: () => void): void {
  const { warn } = console;
  console.warn = () => {};
  try {
    work();
  } finally {
    console.warn = warn;
  }
}

/** Gauge pressure at a node, kPa. */
export function nodeKpa(model: HydraulicModel, solved: SolvedSet, node: number): number {
  return ((solved.headM[node] as number) - (model.nodes[node]?.elevationM ?? 0)) * KPA_PER_METRE_OF_WATER;
}
