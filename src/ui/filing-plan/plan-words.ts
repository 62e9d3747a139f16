/** Words for the states of a move plan. */
export const planStateWords: Readonly<Record<string, { readonly word: string; readonly tone: string }>> = {
  drawing: { word: "being drawn", tone: "amber" },
  drawn: { word: "nothing moved yet", tone: "" },
  running: { word: "moving", tone: "amber" },
  stopped: { word: "stopped", tone: "rust" },
  done: { word: "moved", tone: "moss" },
  undoing: { word: "being undone", tone: "amber" },
  undone: { word: "undone", tone: "" },
  dropped: { word: "dropped", tone: "" },
};

/** Words for why a move could not be made. */
export const moveWhyWords: Readonly<Record<string, string>> = {
  taken: "something of that name stands there",
  changed: "somebody changed the file meanwhile",
  "changed-since": "it stands elsewhere since the plan was drawn",
  gone: "the file is no longer there",
  adrift: "its file is adrift",
  unfiled: "it was taken back to Arrivals",
  "path-too-long": "the place would be too long",
  "not-proven": "the file did not come back as it was put",
  "bytes-damaged": "what is held of the paper is damaged",
  "repository-unreachable": "the repository cannot be reached",
  "repository-refused": "the repository lets nobody in",
  "repository-full": "the repository is full",
  unknown: "it did not work",
};

/** Words for the state of one move. */
export const stepStateWords: Readonly<Record<string, string>> = {
  planned: "to move",
  moving: "moving",
  moved: "moved",
  failed: "did not work",
  clash: "clash",
};
