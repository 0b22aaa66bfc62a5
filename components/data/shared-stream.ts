type Stream = { source: EventSource; hears: Set<(data: string) => void> };
const open = new Map<string, Stream>();

/**
 * Hears a stream of server-sent events; those who hear the same one share a connection, of which a browser has six to a server.
 *
 * @returns hears it no more
 */
export function hearStream(url: string, hear: (data: string) => void): () => void {
  let stream = open.get(url);
  if (!stream) {
    const source = new EventSource(url);
    const fresh: Stream = { source, hears: new Set() };
    source.onmessage = ({ data }) => {
      for (const h of [...fresh.hears]) h(data as string);
    };
    open.set(url, fresh);
    stream = fresh;
  }
  const { hears, source } = stream;
  hears.add(hear);
  return () => {
    hears.delete(hear);
    if (hears.size > 0) return;
    source.close();
    open.delete(url);
  };
}
