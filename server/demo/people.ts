export const DEMO_PASSWORD = "tarrow-county-water";
export const DEMO_USERS = [
  { email: "maren@presa.example", name: "Maren Oddsdatter", role: "manager" },
  { email: "tolly@presa.example", name: "Tolly Brandish", role: "technician" },
  { email: "wim@presa.example", name: "Wim Castellane", role: "viewer" },
] as const;
