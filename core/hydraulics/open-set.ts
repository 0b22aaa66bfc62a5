/** Something that lets water out at a node: `lpm` whatever the pressure, or `coefficient`·√(metres of pressure). */
export type Outlet = { node: number; lpm: number } | { node: number; coefficient: number };
export type OpenSet = {
  outlets: readonly Outlet[];
  /** Links that are shut, by place in the model. */
  shut: ReadonlySet<number>;
  /** Water level of reservoirs where it is not the model's, m. */
  headM?: ReadonlyMap<number, number>;
  /** What links lose besides, at any flow, m. */
  extraM?: ReadonlyMap<number, number>;
};
export type OpenFlows = {
  /** Of each outlet, L/min. */
  outletLpm: number[];
  /** Pressure at each outlet's node, kPa; 0 or less where no water reaches. */
  outletKpa: number[];
  /** Through every link, L/min, in its own direction. */
  linkLpm: Float64Array;
  balanced: boolean;
};
