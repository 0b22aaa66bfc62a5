/** Works on all, so many beside each other; what comes of each, in their order. */
export async function eachOf<T, R>(items: readonly T[], atOnce: number, work: (item: T) => Promise<R>): Promise<R[]> {
  const done: R[] = [];
  for (let i = 0; i < items.length; i += atOnce)
    done.push(...(await Promise.all(items.slice(i, i + atOnce).map(work))));
  return done;
}
