import fc from "fast-check";
import { decideReach, isWide, reachSettingsSchema, reachWords, startingReach, totalReach } from "./reach.ts";

const settings = reachSettingsSchema.parse({ askAbove: 3, types: { customerAgreement: ["freightBooking", "claim", "customerAccount"] } });

describe("reach of a clip", () => {
  it("is nothing until somebody sets it", () => {
    expect(decideReach(undefined, startingReach, "customerAgreement", "customerAccount")).toEqual([]);
    expect(reachSettingsSchema.parse({})).toEqual(startingReach);
  });

  it("is that of the document type unless it is said, and never the record's own type", () => {
    expect(decideReach(undefined, settings, "customerAgreement", "customerAccount")).toEqual(["claim", "freightBooking"]);
    expect(decideReach([], settings, "customerAgreement", "customerAccount")).toEqual([]);
    expect(decideReach(["claim", "claim"], settings, "letter", "customerAccount")).toEqual(["claim"]);
  });

  it("is asked about above the number that was set, not at it", () => {
    expect(isWide([{ type: "claim", count: 3 }], settings)).toBe(false);
    expect(
      isWide(
        [
          { type: "claim", count: 3 },
          { type: "freightBooking", count: 1 },
        ],
        settings,
      ),
    ).toBe(true);
  });

  it("is said with the greatest number first", () => {
    const label = (type: string, count: number): string => (count === 1 ? type : `${type}s`);
    const counts = [
      { type: "claim", count: 1 },
      { type: "quote", count: 0 },
      { type: "order", count: 12 },
      { type: "booking", count: 1412 },
    ];
    expect(reachWords(counts, label)).toBe("1,412 bookings, 12 orders and 1 claim");
    expect(reachWords([], label)).toBe("");
    expect(reachWords([{ type: "claim", count: 1 }], label)).toBe("1 claim");
  });

  it("is decided the same twice, and what was decided stays when it is said again", () => {
    const types = fc.array(fc.constantFrom("claim", "freightBooking", "customerAccount", "quote"));
    fc.assert(
      fc.property(types, fc.constantFrom("claim", "customerAccount"), (said, own) => {
        const once = decideReach(said, settings, "letter", own);
        expect(decideReach(once, settings, "customerAgreement", own)).toEqual(once);
        expect(once).not.toContain(own);
        expect(new Set(once).size).toBe(once.length);
      }),
    );
    fc.assert(
      fc.property(fc.array(fc.record({ type: fc.string(), count: fc.nat(1000) })), (counts) => {
        expect(totalReach(counts)).toBe(counts.reduce((n, c) => n + c.count, 0));
      }),
    );
  });
});
