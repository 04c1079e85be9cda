import type { RenderRequest } from "../api/client";

/** The print on a usual screen, nothing marked. */
export const PLAIN_VIEW: RenderRequest = {
  show: "print",
  substrate: false,
  black_depth: true,
  plates: [],
  tint: "ink",
  mark: "",
  family: null,
  region: "",
  tolerance: 3,
  mark_color: [255, 255, 255],
  mark_angle_deg: 38,
  display: "sRGB",
};
