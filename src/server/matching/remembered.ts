import { keptInMemory } from "../settings/kept.ts";

/** How long what hardly ever changes is remembered, ms; nought: not at all, as in tests. */
let rememberedMs = 0;

/** Has a process that looks at many documents remember types, our own companies and barcode formats for a moment: what is changed holds that much later. */
export function rememberFor(ms: number): void {
  rememberedMs = ms;
}

/** A load whose answer is remembered for a moment. A failure is forgotten at once. */
export function remembered<T>(load: () => Promise<T>): () => Promise<T> {
  let kept: { readonly until: number; readonly value: Promise<T> } | null = null;
  keptInMemory(() => (kept = null));
  return () => {
    const at = performance.now();
    if (kept && kept.until > at) return kept.value;
    const value = load();
    if (rememberedMs > 0) {
      kept = { until: at + rememberedMs, value };
      value.catch(() => (kept = null));
    }
    return value;
  };
}
