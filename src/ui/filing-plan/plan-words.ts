/** Words for the states of a move plan. */
export const planStateWords: Readonly<Record<string, { readonly word: string; readonly tone: string }>> = {
  drawing: { word: "computing", tone: "amber" },
  drawn: { word: "not started", tone: "" },
  running: { word: "moving", tone: "amber" },
  stopped: { word: "stopped", tone: "rust" },
  done: { word: "moved", tone: "moss" },
  undoing: { word: "undoing", tone: "amber" },
  undone: { word: "undone", tone: "" },
  dropped: { word: "dropped", tone: "" },
};

/** Words for why a move could not be made. */
export const moveWhyWords: Readonly<Record<string, string>> = {
  taken: "the name is taken",
  changed: "the file was changed meanwhile",
  "changed-since": "it was moved after the plan was computed",
  gone: "the file no longer exists",
  outOfSync: "its file is out of sync",
  unfiled: "it was taken back to Arrivals",
  "path-too-long": "the path would be too long",
  "not-proven": "the file failed verification",
  "bytes-damaged": "the stored copy is damaged",
  "repository-unreachable": "the repository cannot be reached",
  "repository-refused": "the repository refuses access",
  "repository-full": "the repository is full",
  unknown: "it failed",
};

/** Words for the state of one move. */
export const stepStateWords: Readonly<Record<string, string>> = {
  planned: "to move",
  moving: "moving",
  moved: "moved",
  failed: "failed",
  clash: "clash",
};
