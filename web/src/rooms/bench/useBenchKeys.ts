import { useEffect, useRef } from "react";
import { type Look, STATIONS } from "./useLook";

interface Actions {
  look: Look;
  onFlip: (flipped: boolean) => void;
  onZoom: (direction: -1 | 0 | 1) => void;
  onPin: () => void;
  onUndo: () => void;
  onRedo: () => void;
  onKeys: () => void;
  onGamut: () => void;
}

export const KEYS: [string, string][] = [
  ["1 … 6", "The stations; on the sheet, take that variant"],
  ["F, held", "Flip to the artwork"],
  ["W", "Wipe between artwork and print"],
  ["E", "Pair: artwork and print side by side"],
  ["R", "Sheet of variants"],
  ["O", "Mark what is out of gamut"],
  ["L", "Coverage map, before limiting"],
  ["D", "ΔE map"],
  ["G", "Into the gamut view, with this artwork"],
  ["P", "Drop a pin under the pointer"],
  ["+  −", "Larger, smaller"],
  ["0", "Actual pixels, and back to the whole artwork"],
  ["Ctrl Z", "Undo a setting; with Shift, redo"],
  ["?", "These keys"],
];

const writes = (target: EventTarget | null) =>
  target instanceof HTMLElement && target.matches("input:not([type=range]), textarea, [contenteditable]");

/** The keys of the Bench; none of them acts while somebody writes. */
export function useBenchKeys(actions: Actions) {
  const latest = useRef(actions);
  latest.current = actions;
  useEffect(() => {
    function down(event: KeyboardEvent) {
      const { look, onFlip, onZoom, onPin, onUndo, onRedo, onKeys, onGamut } = latest.current;
      if (writes(event.target)) return;
      if ((event.ctrlKey || event.metaKey) && event.key.toLowerCase() === "z") {
        event.preventDefault();
        event.shiftKey ? onRedo() : onUndo();
        return;
      }
      if (event.ctrlKey || event.metaKey || event.altKey || event.repeat) return;
      const station = STATIONS[Number(event.key) - 1];
      // On the sheet, figures take a variant.
      if (station && look.layout !== "sheet") return look.go(station);
      const acts: Record<string, () => void> = {
        f: () => onFlip(true),
        w: () => look.lay("wipe"),
        e: () => look.lay("pair"),
        r: () => look.lay("sheet"),
        o: () => look.showMark("gamut"),
        l: () => look.showMap("coverage"),
        d: () => look.showMap("difference"),
        p: onPin,
        g: onGamut,
        "+": () => onZoom(1),
        "=": () => onZoom(1),
        "-": () => onZoom(-1),
        "0": () => onZoom(0),
        "?": onKeys,
      };
      acts[event.key.toLowerCase()]?.();
    }
    const up = (event: KeyboardEvent) => event.key.toLowerCase() === "f" && latest.current.onFlip(false);
    const away = () => latest.current.onFlip(false);
    window.addEventListener("keydown", down);
    window.addEventListener("keyup", up);
    window.addEventListener("blur", away);
    return () => {
      window.removeEventListener("keydown", down);
      window.removeEventListener("keyup", up);
      window.removeEventListener("blur", away);
    };
  }, []);
}
