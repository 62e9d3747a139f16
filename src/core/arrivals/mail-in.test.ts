import fc from "fast-check";
import { addressOf, allowsSender, codesInSubject, queueMailSchema, readMailAddress, readMailChecks } from "./mail-in.ts";

const queues = ["payables", "sales-desk"];
const read = (address: string) => readMailAddress(address, "papers.merrowick.example", queues);

test.each([
  ["Brae & Holm <Office@brae-holm.example>", "office@brae-holm.example"],
  ["office@brae-holm.example", "office@brae-holm.example"],
  ["Brae & Holm", null],
  ["", null],
  ["<a b@c>", null],
])("the address in %p is %p", (sender, address) => expect(addressOf(sender)).toBe(address));

describe("An address of ours", () => {
  test.each([
    ["payables@papers.merrowick.example", { queue: "payables", code: null }],
    ["Payables@Papers.Merrowick.EXAMPLE", { queue: "payables", code: null }],
    ["sales-desk+B-20418@papers.merrowick.example", { queue: "sales-desk", code: "B-20418" }],
    ["payables+@papers.merrowick.example", { queue: "payables", code: null }],
    ["payables+a+b@papers.merrowick.example", { queue: "payables", code: "a+b" }],
    ["nobody@papers.merrowick.example", null],
    ["payables@elsewhere.example", null],
    ["payables", null],
    ["@papers.merrowick.example", null],
    ["", null],
  ])("%s", (address, target) => expect(read(address)).toEqual(target));
  test("never throws, whatever is written there", () => {
    fc.assert(fc.property(fc.string({ unit: "binary", maxLength: 200 }), (text) => void read(text)));
  });
});

test.each([
  [[], "anybody@any.example", true],
  [["@orrin.example"], "accounts@orrin.example", true],
  [["@orrin.example"], "ACCOUNTS@ORRIN.EXAMPLE", true],
  [["@orrin.example"], "accounts@notorrin.example", false],
  [["@orrin.example"], "a@orrin.example.evil.example", false],
  [["jo@orrin.example"], "jo@orrin.example", true],
  [["jo@orrin.example"], "bo.jo@orrin.example", false],
])("with %j as senders, %s may send: %s", (senders, from, may) => expect(allowsSender(senders, from)).toBe(may));

test.each([
  ["Your order PO-6127", ["PO-6127"]],
  ["Re: [B-20418] trailers, see also 31-5489.", ["B-20418", "31-5489"]],
  ["Invoice of 18.11.2026 and 2026-11-18, page 2", []],
  ["AC-000477 again AC-000477", ["AC-000477"]],
  ["nothing here", []],
  ["", []],
])("codes in the subject %s", (subject, codes) => expect(codesInSubject(subject)).toEqual(codes));

describe("What the relay found out", () => {
  const header = (key: string, value: string) => ({ key, value });
  test("is read from its own line, which stands on top", () => {
    const line = "mx.example; spf=pass smtp.mailfrom=orrin.example; dkim=fail (bad) header.d=orrin.example";
    expect(readMailChecks([header("authentication-results", line), header("authentication-results", "x; spf=fail")])).toEqual({
      spf: "pass",
      dkim: "fail",
      junk: null,
    });
  });
  test.each([
    [[header("x-spam-flag", "YES")], "the mail server marked it as junk"],
    [[header("X-Spam-Status", "Yes, score=9.1")], "the mail server marked it as junk"],
    [[header("x-spam-status", "No, score=0.1")], null],
    [[header("authentication-results", "mx; spf=fail")], "the sender could not be verified"],
    [[header("authentication-results", "mx; spf=fail; dkim=pass")], null],
    [[], null],
  ])("%j is junk: %s", (headers, junk) => expect(readMailChecks(headers).junk).toBe(junk));
});

test.each([
  ["@orrin.example", true],
  ["jo@orrin.example", true],
  ["orrin.example", false],
  ["a b@orrin.example", false],
])("%s can be named as a sender: %s", (sender, ok) =>
  expect(queueMailSchema.safeParse({ keeps: "partsOnly", senders: [sender] }).success).toBe(ok),
);
