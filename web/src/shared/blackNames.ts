const NAMES: Record<string, string> = {
  none: "None",
  skeleton: "Skeleton",
  gcr: "GCR",
  ucr: "UCR",
  full: "Full",
};

/** What a preset of black generation is called; see docs/words.md. */
export const blackName = (preset: string): string => NAMES[preset] ?? preset;
