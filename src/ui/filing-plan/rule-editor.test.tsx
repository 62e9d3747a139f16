import { testMe } from "../kit/test-page.tsx";
import { cleanup, fireEvent, render, screen } from "@testing-library/react";
import { useState } from "react";
import type { FolderRule } from "#core/filing-plan/folder-rule.ts";
import type { RecordType } from "#core/records/record-type.ts";
import type { RulePreview } from "#server/filing-plan/preview-rule.ts";
import { PatternInput } from "./pattern-input.tsx";
import { patternFields, RuleEditor } from "./rule-editor.tsx";
import { RulePreviewPanel } from "./rule-preview-panel.tsx";

afterEach(cleanup);

const type: RecordType = {
  key: "freightBooking",
  label: "Freight booking",
  plural: "Freight bookings",
  kind: "passing",
  icon: "truck",
  short: "Booking",
  fields: [
    { key: "sailingDate", label: "Sailing", kind: "date", required: false },
    { key: "vessel", label: "Vessel", kind: "text", required: false },
  ],
  parent: ["customerAccount"],
  order: 1,
};
const rule: FolderRule = {
  kind: "passing",
  inside: { otherwise: "Unassigned bookings" },
  rootFolder: "Bookings",
  groupedBy: { field: "sailingDate", period: "year" },
  folderName: "{key}",
  tellApart: null,
  fileName: "{title}",
  connection: "companyFolders",
  variants: [],
  subFolders: null,
  fileNames: {},
};

describe("A name is picked or written; both are the same thing", () => {
  function Field({ start }: { start: string }) {
    const [value, setValue] = useState(start);
    return (
      <>
        <PatternInput id="name" value={value} fields={patternFields(type)} ending=". ending" onChange={setValue} />
        <output>{value}</output>
      </>
    );
  }
  const value = () => screen.getByRole("status").textContent;

  test("fields stand as tokens with their labels and formats, text between them as it is", () => {
    render(<Field start={'B {key} {sailingDate:year|"undated"}'} />);
    expect(screen.getByText(/Number/)).toBeTruthy();
    expect(screen.getByText(/Sailing, year or/)).toBeTruthy();
    expect(screen.getByText(". ending")).toBeTruthy();
  });
  test("a field is added at the end and taken out again", () => {
    render(<Field start="{key}" />);
    fireEvent.click(screen.getByLabelText("Add a field"));
    fireEvent.click(screen.getByText("Vessel"));
    expect(value()).toBe("{key} {vessel}");
    fireEvent.click(screen.getByLabelText("Remove Number"));
    expect(value()).toBe("{vessel}");
  });
  test("written text that cannot be read stays written until it can", () => {
    render(<Field start="{key}" />);
    fireEvent.click(screen.getByText("text"));
    const input = document.querySelector<HTMLInputElement>("#name");
    if (!input) throw new Error("no input");
    fireEvent.change(input, { target: { value: "{key" } });
    expect(input.className).toContain("is-invalid");
    expect(screen.getByText<HTMLButtonElement>("fields").disabled).toBe(true);
    fireEvent.change(input, { target: { value: "{key:upper}" } });
    fireEvent.click(screen.getByText("fields"));
    expect(screen.getByText(/Number, upper/)).toBeTruthy();
  });
  test("a pattern that came in wrong is shown as text, with what is there", () => {
    render(<Field start="{a}}" />);
    expect(document.querySelector<HTMLInputElement>("#name")?.value).toBe("{a}}");
  });
});

describe("The folder rule", () => {
  const changes: FolderRule[] = [];
  const draw = (over: Partial<FolderRule> = {}, errors: { path: string; message: string }[] = []) => {
    changes.length = 0;
    render(
      <RuleEditor
        type={type}
        rule={{ ...rule, ...over }}
        errors={errors}
        parentLabels={["Customer account"]}
        connections={[{ key: "companyFolders", label: "Company folders" }]}
        documentTypes={testMe.documentTypes}
        onChange={(r) => changes.push(r)}
      />,
    );
  };
  test("changes one thing at a time and leaves the rest", () => {
    draw();
    fireEvent.change(screen.getByLabelText("Root folder"), { target: { value: "Freight" } });
    expect(changes[0]).toEqual({ ...rule, rootFolder: "Freight" });
    fireEvent.click(screen.getByRole("radio", { name: /Master record/ }));
    expect(changes[1]).toEqual({ ...rule, kind: "standing" });
    fireEvent.change(screen.getByLabelText("Period"), { target: { value: "month" } });
    expect(changes[2]?.groupedBy).toEqual({ field: "sailingDate", period: "month" });
    fireEvent.change(screen.getByLabelText("If names clash, add"), { target: { value: "vessel" } });
    expect(changes[3]?.tellApart).toBe("vessel");
  });
  test("standing straight below the root takes the second choice away, and back brings one", () => {
    draw();
    fireEvent.change(screen.getByLabelText("Inside"), { target: { value: "" } });
    expect(changes[0]?.inside).toBeNull();
    cleanup();
    draw({ inside: null });
    fireEvent.change(screen.getByLabelText("Inside"), { target: { value: "parent" } });
    expect(changes[0]?.inside).toEqual({ otherwise: "Unassigned freight bookings" });
  });
  test("grouping is taken off and put on", () => {
    draw();
    fireEvent.change(screen.getByLabelText("Grouped by"), { target: { value: "" } });
    expect(changes[0]?.groupedBy).toBeNull();
    cleanup();
    draw({ groupedBy: null });
    expect(screen.queryByLabelText("Period")).toBeNull();
    fireEvent.change(screen.getByLabelText("Grouped by"), { target: { value: "sailingDate" } });
    expect(changes[0]?.groupedBy).toEqual({ field: "sailingDate", period: "year" });
  });
  test("mistakes stand where they are", () => {
    draw({}, [
      { path: "rootFolder", message: "needs a folder" },
      { path: "folderName", message: "needs at least one field" },
    ]);
    expect(screen.getByLabelText("Root folder").closest(".row")?.textContent).toContain("needs a folder");
    expect(screen.getByText("needs at least one field")).toBeTruthy();
  });
});

describe("With your records", () => {
  const answer: RulePreview = {
    errors: [],
    records: 3,
    samples: [
      {
        key: "B-1",
        title: "One",
        company: "MF",
        connection: "companyFolders",
        now: null,
        segments: ["Customers", "Orrin", "2026", "B-1"],
        papers: 2,
        unassigned: false,
      },
      {
        key: "B-2",
        title: "Two",
        company: "MF",
        connection: "companyFolders",
        now: null,
        segments: ["Customers", "Orrin", "2026", "B-2"],
        papers: 0,
        unassigned: false,
      },
      {
        key: "B-3",
        title: "Three",
        company: "MF",
        connection: "companyFolders",
        now: null,
        segments: ["Unassigned bookings", "B-3"],
        papers: 0,
        unassigned: true,
      },
    ],
    clashes: [],
    clashCount: 0,
    changed: [],
    changedCount: 0,
    tooLongKeys: [],
    moves: { folders: 0, documents: 0 },
    tooLong: 0,
  };
  const draw = (over: Partial<RulePreview> = {}, error: unknown = null) => {
    const asked: string[] = [];
    render(
      <RulePreviewPanel
        answer={{ ...answer, ...over }}
        error={error}
        sample="recent"
        typeKey="freightBooking"
        chosenKeys={[]}
        onChosen={() => {}}
        onSample={(s) => asked.push(s)}
        onBack={() => asked.push("back")}
      />,
    );
    return asked;
  };
  test("folders that are shared stand once, with what is in them", () => {
    draw();
    expect(screen.getAllByText("Orrin")).toHaveLength(1);
    expect(screen.getByText("2 documents")).toBeTruthy();
    expect(screen.getByText("no account yet")).toBeTruthy();
    expect(screen.getByText("All 3 folders are unique and valid.")).toBeTruthy();
  });
  test("namesakes are named with what happens to them", () => {
    draw({
      clashCount: 2,
      clashes: [
        { path: "Halven Timber", keys: ["C-1101", "C-1288"], toldApart: false },
        { path: "Brae", keys: ["C-1", "C-2"], toldApart: true },
      ],
    });
    expect(screen.getByText(/2 names are shared by several records/)).toBeTruthy();
    expect(screen.getByText(/later ones get a number/)).toBeTruthy();
    expect(screen.getByText(/made unique by the field/)).toBeTruthy();
  });
  test("places that are too long, mistakes, and no records are said", () => {
    draw({ tooLong: 1 });
    expect(screen.getByText(/1 path is too long/)).toBeTruthy();
    cleanup();
    draw({ errors: [{ path: "rootFolder", message: "needs a folder" }] });
    expect(screen.getByText(/is incomplete: needs a folder/)).toBeTruthy();
    cleanup();
    draw({ records: 0, samples: [] });
    expect(screen.getByText(/no records of this type yet/)).toBeTruthy();
    cleanup();
    draw({}, new Error("away"));
    expect(screen.getByText(/away/)).toBeTruthy();
  });
  test("others are asked for", () => {
    const asked = draw();
    fireEvent.click(screen.getByText("odd"));
    fireEvent.click(screen.getByText("random"));
    expect(asked).toEqual(["odd", "random"]);
  });
});
