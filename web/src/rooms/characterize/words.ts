/** Steps in the words of the screen: a name, and what is done there. */
export const STEP_WORDS: Record<string, { name: string; purpose: string }> = {
  light: {
    name: "Light behind it",
    purpose: "The panel that prints will hang on, and how much of the room falls on their front.",
  },
  crossing: {
    name: "Light and dark inks",
    purpose: "A ramp of every ink; where light ink stops and dark ink takes over.",
  },
  linearize: {
    name: "Linearize",
    purpose: "A ramp of every ink of a separation; each is capped where density stops rising and made even.",
  },
  total: {
    name: "Total ink",
    purpose: "A staircase of more and more ink; the last step that still got darker is enough.",
  },
  chart: { name: "Chart", purpose: "The patches that the profile is made of." },
  measure: { name: "Measure", purpose: "Print the chart, let it dry, read it." },
  build: { name: "Build", purpose: "Fit the patches and write the profile." },
  judge: { name: "Judge", purpose: "Round trip, grays, dot gain, ink; then trust it or go back." },
};

export const STATE_WORDS: Record<string, string> = {
  open: "to do",
  measuring: "under way",
  done: "done",
  stale: "stale: something before it changed",
};
