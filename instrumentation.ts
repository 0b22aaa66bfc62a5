/** Before the first request: each says where its connection comes from. */
export async function register(): Promise<void> {
  if (process.env["NEXT_RUNTIME"] !== "nodejs") return;
  const { watchConnections } = await import("./server/auth/address");
  watchConnections();
}
