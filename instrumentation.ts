/** Before the first request: each says where its connection comes from, and the threads for what is worked out are ready. */
export async function register(): Promise<void> {
  if (process.env["NEXT_RUNTIME"] !== "nodejs") return;
  const [{ watchConnections }, { beginHeavy }] = await Promise.all([
    import("./server/auth/address"),
    import("./server/heavy/pool"),
  ]);
  watchConnections();
  beginHeavy();
}
