/** What is written and drawn on the neutral gray around the artwork, of L* `lightness`: black and white are as far from L* 49.5. */
export const onSurround = (lightness: number) => (lightness < 49.5 ? "#ffffff" : "#000000");
