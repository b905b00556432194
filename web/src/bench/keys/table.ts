// The keys of the bench, as its help shows them.

export interface KeyLine {
  keys: readonly string[];
  does: string;
}
export const KEY_TABLE: readonly (readonly [string, readonly KeyLine[]])[] = [
  [
    "Everywhere",
    [
      { keys: ["?"], does: "This help" },
      { keys: ["1", "7"], does: "The stations of the job, first to seventh" },
    ],
  ],
  [
    "Panel map",
    [
      { keys: ["N", "P"], does: "Next and previous finding" },
      { keys: ["L"], does: "Next layer: faults, light, tint and so on" },
      { keys: ["B"], does: "Hold it: the inspection before this one" },
    ],
  ],
  [
    "A finding that is open",
    [
      { keys: ["A"], does: "Confirm it" },
      { keys: ["R"], does: "Reject it" },
      { keys: ["C"], does: "Correct it" },
      { keys: ["U"], does: "Take the decision back" },
    ],
  ],
  [
    "A photo looked at closely",
    [
      { keys: ["+", "−", "0"], does: "Larger, smaller, the whole panel" },
      { keys: ["→", "←", "↑", "↓"], does: "Move over the panel" },
      { keys: ["N", "P"], does: "To the finding after this one, or before it" },
      { keys: ["Space"], does: "The next photo of the set, at the same place" },
      { keys: ["D"], does: "What differs from what was sent, and back" },
      { keys: ["C"], does: "Hold it against the same pattern at another stage" },
      { keys: ["M"], does: "Marks on and off" },
      { keys: ["R"], does: "An end of the ruler in the middle of the window" },
    ],
  ],
  [
    "Isolate",
    [
      { keys: ["the key beside an answer"], does: "Give that answer" },
      { keys: ["X"], does: "This check cannot be done, this repair not now" },
      { keys: ["Esc"], does: "Back to the check that is due" },
    ],
  ],
  [
    "Match",
    [
      { keys: ["H"], does: "Take the panel that is most likely" },
      { keys: ["O"], does: "Choose the cheapest offer that fits" },
    ],
  ],
  [
    "Fit",
    [
      { keys: ["G"], does: "One step a screen, in large type" },
      { keys: ["Space"], does: "There: the step is done (a foot pedal does the same)" },
      { keys: ["→", "←"], does: "There: look ahead, look back" },
      { keys: ["V"], does: "There: say the step aloud" },
    ],
  ],
  [
    "Photographing and drawing",
    [
      { keys: ["Space", "→"], does: "Next pattern or step (a foot pedal does the same)" },
      { keys: ["←"], does: "Previous pattern or step" },
      { keys: ["T"], does: "Picture or touch" },
      { keys: ["M"], does: "Draw what is missing" },
      { keys: ["F", "F11"], does: "On the device: full screen" },
    ],
  ],
];
