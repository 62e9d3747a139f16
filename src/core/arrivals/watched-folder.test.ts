import { codesInFolders, documentTypeOfFolders } from "./watched-folder.ts";

const types = [
  { key: "deliveryNote", label: "Delivery note", plural: "Delivery notes" },
  { key: "letter", label: "Letter", plural: "Letters" },
];

test.each([
  [["PO-6127"], ["PO-6127"]],
  [
    ["PO-6127 Tarrin", "scans"],
    ["PO-6127 Tarrin", "PO-6127"],
  ],
  [
    ["B-20418", "AC-000477"],
    ["AC-000477", "B-20418"],
  ],
  [["from the quay"], []],
  [[], []],
])("folders %j may name %j, the innermost first", (folders, codes) => expect(codesInFolders(folders)).toEqual(codes));

test.each([
  [["Delivery notes"], "deliveryNote"],
  [["delivery NOTE"], "deliveryNote"],
  [["deliveryNote", "Letters"], "letter"],
  [["Delivery notes of May"], null],
  [[], null],
])("folders %j are of the document type %s", (folders, key) => expect(documentTypeOfFolders(folders, types)).toBe(key));
