import fc from "fast-check";
import { groupByCodes, type StackPage } from "./group-by-codes.ts";

const said = (text: string, leftOut = true) => ({ begins: true, leftOut, text });
const page = (number: number, over: Partial<StackPage> = {}): StackPage => ({ number, blank: false, said: null, ...over });

describe("Sorting a stack by its codes", () => {
  test("each sheet takes the pages behind it; what lies before the first has no code; backs are left out", () => {
    const stack = [
      page(1),
      page(2, { said: said("A") }),
      page(3, { blank: true }),
      page(4),
      page(5, { said: said("B", false) }),
      page(6),
      page(7, { said: said("C") }),
    ];
    expect(groupByCodes(stack, true)).toEqual({
      groups: [
        { code: null, pages: [1] },
        { code: "A", pages: [4] },
        { code: "B", pages: [5, 6] },
      ],
      dropped: [2, 3, 7],
    });
    expect(groupByCodes(stack, false).dropped).toEqual([2, 7]);
  });
  test("every page is in exactly one place (promise 2)", () => {
    const any = fc.record({ blank: fc.boolean(), sheet: fc.constantFrom("none", "cover", "label", "other") });
    fc.assert(
      fc.property(fc.array(any, { maxLength: 30 }), fc.boolean(), (stack, leaves) => {
        const pages = stack.map((s, i) =>
          page(i + 1, {
            blank: s.blank,
            said: s.sheet === "none" ? null : { begins: s.sheet !== "other", leftOut: s.sheet === "cover", text: `c${i}` },
          }),
        );
        const { groups, dropped } = groupByCodes(pages, leaves);
        expect([...groups.flatMap((g) => g.pages), ...dropped].sort((a, b) => a - b)).toEqual(pages.map((p) => p.number));
        expect(groups.every((g) => g.pages.length > 0)).toBe(true);
      }),
    );
  });
});
