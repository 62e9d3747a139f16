/** What lets go of something that this process keeps in memory. */
const kept = new Set<() => void>();

/** Says how something is let go of that this process keeps in memory and that hangs on its settings or on what is in its database. */
export function keptInMemory(letGo: () => void): void {
  kept.add(letGo);
}

/** Lets go of all that is kept in memory of settings and database: where one process works on another database from now on, as tests do. */
export function letGoOfKept(): void {
  for (const letGo of kept) letGo();
}
