/** Kinds of space, object and color that a row can catch, as they are called here. */
export const SPACES = ["gray", "RGB", "CMYK", "Lab", "spot"] as const;
export const OBJECTS = [
  ["text", "text"],
  ["line art", "line art"],
  ["image", "pictures"],
  ["shading", "shadings"],
] as const;
export const COLORS = [
  ["any", "any color"],
  ["pure black", "pure black"],
  ["pure ink", "a single ink"],
  ["equal RGB", "equal RGB"],
  ["near neutral", "near neutral"],
  ["solids", "solids"],
] as const;

export const INTENTS = ["perceptual", "relative", "saturation", "absolute"] as const;
