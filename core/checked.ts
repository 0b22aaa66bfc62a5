/**
 * Access to what is there by construction. Where it is not, something is wrong with the code, and it says so at once instead of going on with
 * `undefined`.
 */

/** The element at an index; throws a RangeError where there is none. */
export function nth<T>(list: ArrayLike<T>, index: number): T {
  const found = list[index];
  if (found === undefined) throw new RangeError(`no element ${index} of ${list.length}`);
  return found;
}

/** The value of a key; throws a RangeError where there is none. */
export function got<K, V>(map: ReadonlyMap<K, V>, key: K): V {
  const found = map.get(key);
  if (found === undefined) throw new RangeError(`nothing is known of ${String(key)}`);
  return found;
}
