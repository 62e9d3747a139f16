import fc from "fast-check";
import type { Reason } from "./match-types.ts";
import type { EvidenceKind } from "./match-weights.ts";
import { reasonWords, wordsOfReason } from "./reason-words.ts";
import { tellApart } from "./tell-apart.ts";

const reason = (kind: EvidenceKind, weight = 1, about = ""): Reason => ({
  kind,
  about,
  text: "",
  page: null,
  box: null,
  where: "record",
  against: weight < 0,
  weight,
});
const of = (...reasons: readonly Reason[]) => ({ reasons });

describe("What tells two suggestions apart", () => {
  test("is what only one of them has, the weightiest first", () => {
    const one = of(reason("senderIban", 3), reason("totalFits", 2), reason("orderNamed", 5));
    const other = of(reason("senderIban", 3), reason("amountOff", -1, "12 %"), reason("routeNamed", 0.5));
    expect(tellApart(one, other)).toEqual({ own: ["order number", "total matches"], others: ["total differs, 12 %", "names the route"] });
  });
  test("the same kind about something else does tell them apart; the same words do not", () => {
    expect(
      tellApart(
        of(reason("amountOff", -1, "2 %"), reason("keyNamed", 2, "PO-1")),
        of(reason("amountOff", -2, "40 %"), reason("keyNamed", 2, "PO-2")),
      ),
    ).toEqual({
      own: ["total differs, 2 %"],
      others: ["total differs, 40 %"],
    });
  });
  test("what is too faint to be shown is not named, and no more than is read", () => {
    expect(tellApart(of(reason("recent"), reason("usualRecord")), of())).toEqual({ own: [], others: [] });
    expect(
      tellApart(of(reason("said", 9), reason("dayFits", 4), reason("netFits", 3), reason("vesselNamed", 2, "MV Pale Heron")), of()).own,
    ).toEqual(["named on arrival", "same day", "net matches"]);
  });
  test("nothing is said of a suggestion that is not among its own reasons, and never of both", () => {
    const kinds = Object.keys(reasonWords) as EvidenceKind[];
    const some = fc.array(
      fc.record({ kind: fc.constantFrom(...kinds), weight: fc.integer({ min: -9, max: 9 }), about: fc.constantFrom("", "a", "b") }),
    );
    fc.assert(
      fc.property(some, some, (a, b) => {
        const one = of(...a.map((r) => reason(r.kind, r.weight, r.about)));
        const other = of(...b.map((r) => reason(r.kind, r.weight, r.about)));
        const apart = tellApart(one, other);
        const said = [one, other].map((s) => new Set(s.reasons.map(wordsOfReason)));
        expect(apart.own.every((w) => said[0]?.has(w) && !said[1]?.has(w))).toBe(true);
        expect(apart.others.every((w) => said[1]?.has(w) && !said[0]?.has(w))).toBe(true);
        const back = tellApart(other, one);
        expect([back.own, back.others]).toEqual([apart.others, apart.own]);
      }),
    );
  });
});
