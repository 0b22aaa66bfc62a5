export const DEMO_PASSWORD = "tarrow-county-water";
const COUNTY = "Tarrow County Grounds";
/** The first three work on the demo sites; the last sees nothing of them. */
export const DEMO_USERS = [
  { email: "maren@presa.example", name: "Maren Oddsdatter", role: "manager", organisation: COUNTY },
  { email: "tolly@presa.example", name: "Tolly Brandish", role: "technician", organisation: COUNTY },
  { email: "wim@presa.example", name: "Wim Castellane", role: "viewer", organisation: COUNTY },
  { email: "iskra@ruddle.example", name: "Iskra Fenn", role: "manager", organisation: "Ruddle Valley Parks" },
] as const;
