/** What is to change of `T`; a key that is `undefined` here goes from the file. */
export type Patch<T> = { [K in keyof T]?: T[K] | undefined };

/** Without keys whose value is undefined, as the file would be written. */
export function clean<T extends object>(value: Patch<T>): T {
  return Object.fromEntries(Object.entries(value).filter(([, v]) => v !== undefined)) as T;
}

/** `value` with the keys of `patch` set, and those that are undefined there gone. */
export function patched<T extends object>(value: T, patch: Patch<T>): T {
  return clean<T>({ ...value, ...patch });
}
