import { useEffect, useRef } from "react";
import { usePreference } from "../../shared/preferences";
import { STATIONS, type StationName, type ViewState } from "./useViewState";

interface Actions {
  viewState: ViewState;
  onFlip: (flipped: boolean) => void;
  onZoom: (direction: -1 | 0 | 1) => void;
  onPin: () => void;
  onUndo: () => void;
  onRedo: () => void;
  onKeys: () => void;
  onGamut: () => void;
  onStation: (station: StationName) => void;
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
  ["?", "These keys"],
];

/** Keys that act whether single keys do or not. */
export const MORE_KEYS: [string, string][] = [
  ["Ctrl Z", "Undo a setting; with Shift, redo"],
  ["Ctrl Enter", "What the black button of the panel does"],
  [
    "On the picture",
    "Arrows point at a pixel (with Shift by ten), Enter drops a pin or draws, Escape leaves",
  ],
  ["On a curve", "Page up and down choose a point, arrows move it, Insert adds one, Delete removes it"],
  ["On a plot", "Left and right read it out"],
];

/** Whether what has the focus got it by a press of the mouse rather than of a key. */
let byPointer = false;
let lastInput = "";
function watchHand(): () => void {
  const hand = (event: Event) => {
    lastInput = event.type;
  };
  const came = () => {
    byPointer = lastInput === "pointerdown";
  };
  for (const type of ["pointerdown", "keydown"]) window.addEventListener(type, hand, true);
  window.addEventListener("focusin", came);
  return () => {
    for (const type of ["pointerdown", "keydown"]) window.removeEventListener(type, hand, true);
    window.removeEventListener("focusin", came);
  };
}

/**
 * Where a letter belongs to what has the focus: fields, lists and dialogs, but neither sliders nor checkboxes. A list
 * that was chosen from and closed by mouse is done with, so that the next key is the Bench's.
 */
export function takesLetters(target: EventTarget | null): boolean {
  if (!(target instanceof Element)) return false;
  if (target.matches("input:not([type=range], [type=checkbox], [type=radio], [type=button])")) return true;
  if (target.matches("[role=combobox][aria-expanded=false]") && byPointer) return false;
  const taking =
    "select, textarea, [contenteditable], [role=combobox], [role=listbox], [role=menu], [role=dialog], [role=grid]";
  return target.closest(taking) !== null;
}

/** Whether single keys act, a choice of this browser. */
export const useSingleKeys = () => usePreference("keys", true);

/** The keys of the Bench; none of them acts while somebody writes or chooses. */
export function useBenchKeys(actions: Actions) {
  const latest = useRef(actions);
  latest.current = actions;
  const [single] = useSingleKeys();
  useEffect(() => {
    document.documentElement.dataset.keys = single ? "on" : "off";
    function withControl(event: KeyboardEvent) {
      const { onUndo, onRedo } = latest.current;
      if (event.key === "Enter") {
        document.querySelector<HTMLButtonElement>(".panel .foot .MuiButton-contained")?.click();
      } else if (event.key.toLowerCase() === "z" && !takesLetters(event.target)) {
        event.shiftKey ? onRedo() : onUndo();
      } else return;
      event.preventDefault();
    }
    function down(event: KeyboardEvent) {
      if (event.ctrlKey || event.metaKey) return withControl(event);
      if (event.altKey || event.repeat || event.defaultPrevented || takesLetters(event.target)) return;
      const { viewState, onFlip, onZoom, onPin, onKeys, onGamut, onStation } = latest.current;
      if (event.key === "?") return onKeys();
      if (!single) return;
      const station = STATIONS[Number(event.key) - 1];
      // On the sheet, figures take a variant.
      if (station && viewState.layout !== "sheet") return onStation(station);
      const acts: Record<string, () => void> = {
        f: () => onFlip(true),
        w: () => viewState.lay("wipe"),
        e: () => viewState.lay("pair"),
        r: () => viewState.lay("sheet"),
        o: () => viewState.showMark("gamut"),
        l: () => viewState.showMap("coverage"),
        d: () => viewState.showMap("difference"),
        p: onPin,
        g: onGamut,
        "+": () => onZoom(1),
        "=": () => onZoom(1),
        "-": () => onZoom(-1),
        "0": () => onZoom(0),
      };
      acts[event.key.toLowerCase()]?.();
    }
    const up = (event: KeyboardEvent) => event.key.toLowerCase() === "f" && latest.current.onFlip(false);
    const away = () => latest.current.onFlip(false);
    const unwatch = watchHand();
    window.addEventListener("keydown", down);
    window.addEventListener("keyup", up);
    window.addEventListener("blur", away);
    return () => {
      unwatch();
      window.removeEventListener("keydown", down);
      window.removeEventListener("keyup", up);
      window.removeEventListener("blur", away);
    };
  }, [single]);
}
