/** A set of row ids that takes one bit each. */
export class IdSet {
  private bits = new Uint8Array(1 << 13);
  add(id: number): void {
    const at = Math.floor(id / 8);
    if (at >= this.bits.length) {
      const larger = new Uint8Array(Math.max(this.bits.length * 2, at + 1));
      larger.set(this.bits);
      this.bits = larger;
    }
    this.bits[at] = (this.bits[at] ?? 0) | (1 << (id % 8));
  }
  /** The ids of this set that are not in another, in order. */
  without(other: IdSet): readonly number[] {
    const left: number[] = [];
    for (let at = 0; at < this.bits.length; at++) {
      const here = (this.bits[at] ?? 0) & ~(other.bits[at] ?? 0);
      for (let bit = 0; here >> bit !== 0; bit++) if ((here >> bit) & 1) left.push(at * 8 + bit);
    }
    return left;
  }
  has(id: number): boolean {
    return ((this.bits[Math.floor(id / 8)] ?? 0) & (1 << (id % 8))) !== 0;
  }
}
