/** One thing that has to get from one place to another. Places are whole folded paths, with the connection in front. */
export interface Move {
  readonly id: number;
  readonly from: string;
  readonly to: string;
}

/** One step of carrying moves out. Steps of one wave do not touch each other; waves follow one another. */
export interface MoveStep {
  readonly id: number;
  readonly wave: number;
  /** "aside" goes from its place to a temporary name, "in" from there to its target, "straight" from place to target. */
  readonly kind: "straight" | "aside" | "in";
}

/**
 * Puts moves in an order in which no step finds its target taken by another that still has to leave: chains from their free end, swaps and
 * cycles over one temporary name each, and what others are to go inside of (or what goes inside itself) steps aside before anything else.
 * `from` and `to` are each unique among the moves. The same moves give the same steps. Linear. Rule: docs/rules.md#moves (promise 4)
 */
export function orderMoves(moves: readonly Move[]): readonly MoveStep[] {
  const byFrom = new Map(moves.map((m) => [m.from, m]));
  const aside = new Set<number>();
  // Folders that were looked at, with all above them: most moves go to a few.
  const looked = new Set<string>();
  for (const m of moves) {
    if (m.from === m.to) aside.add(m.id);
    for (let cut = m.to.lastIndexOf("/"); cut > 0; cut = m.to.lastIndexOf("/", cut - 1)) {
      const parent = m.to.slice(0, cut);
      if (looked.has(parent)) break;
      looked.add(parent);
      const inside = byFrom.get(parent);
      if (inside) aside.add(inside.id);
    }
  }
  /** Who has to leave before this one can arrive. */
  const before = (m: Move): Move | undefined => {
    const there = byFrom.get(m.to);
    return there && there.id !== m.id ? there : undefined;
  };
  // Each waits for at most one other, so following that line ends, or comes back to where it has been: a cycle, where one steps aside.
  const settled = new Set<number>();
  for (const start of moves) {
    const line: number[] = [];
    const inLine = new Set<number>();
    for (let at: Move | undefined = start; at && !settled.has(at.id) && !aside.has(at.id); at = before(at)) {
      if (inLine.has(at.id)) {
        aside.add(Math.min(...line.slice(line.indexOf(at.id))));
        break;
      }
      line.push(at.id);
      inLine.add(at.id);
    }
    for (const id of line) settled.add(id);
  }
  const wave = new Map<number, number>();
  const waveOf = (m: Move): number => {
    const line: Move[] = [];
    for (let at: Move | undefined = m; at && !wave.has(at.id); at = aside.has(before(at)?.id ?? -1) ? undefined : before(at)) line.push(at);
    for (const at of line.toReversed()) {
      const first = before(at);
      wave.set(at.id, first && !aside.has(first.id) ? (wave.get(first.id) ?? 0) + 1 : aside.size > 0 ? 1 : 0);
    }
    return wave.get(m.id) ?? 0;
  };
  const steps: MoveStep[] = [];
  // Those that leave one folder stand beside each other: mostly they can leave it together.
  for (const m of [...moves].sort((a, b) => (a.from < b.from ? -1 : 1))) {
    if (aside.has(m.id)) steps.push({ id: m.id, wave: 0, kind: "aside" });
    steps.push({ id: m.id, wave: waveOf(m), kind: aside.has(m.id) ? "in" : "straight" });
  }
  return steps.sort((a, b) => a.wave - b.wave);
}
