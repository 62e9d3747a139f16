/** Does something with each of many, so many at once, and answers what came of each, in their order. The first that throws ends it. */
export async function sideBySide<T, R>(items: readonly T[], atOnce: number, act: (item: T) => Promise<R>): Promise<R[]> {
  const results: R[] = [];
  let next = 0;
  let failed = false;
  await Promise.all(
    Array.from({ length: Math.min(atOnce, items.length) }, async () => {
      for (let i = next++; i < items.length && !failed; i = next++) {
        try {
          results[i] = await act(items[i] as T);
        } catch (error) {
          failed = true;
          throw error;
        }
      }
    }),
  );
  return results;
}
