import type { Batch, WatchedFolder } from "../api/batchQueries";
import type { Characterization } from "../api/characterizationQueries";
import type { Condition, Recipe, Run } from "../api/client";
import type { Output } from "../api/policyQueries";

/** What a guide can see of the house: where one is, what is set there, and what came about since it was begun. */
export interface Situation {
  path: string;
  look: URLSearchParams;
  condition: Condition | undefined;
  recipe: Recipe | undefined;
  conditions: Condition[];
  /** Asked for since the guide was begun. */
  runs: Run[];
  batches: Batch[];
  characterizations: Characterization[];
  outputs: Output[];
  folders: WatchedFolder[];
  begunAt: number;
}

export interface GuideStep {
  what: string;
  why: string;
  /** The control that it is about, and the room it is in. */
  at?: string;
  room?: string;
  done: (now: Situation) => boolean;
}

export interface Guide {
  key: string;
  title: string;
  minutes: number;
  steps: GuideStep[];
}

const onBench = ({ path }: Situation) => /^\/bench\/\d/.test(path);
const station = (name: string) => (now: Situation) => onBench(now) && now.look.get("at") === name;
const written = (kind: string, format?: string) => (now: Situation) =>
  now.runs.some(
    (run) => run.kind === kind && run.state === "done" && (!format || run.file_name.endsWith(format)),
  );
const stepDone = (step: string) => (now: Situation) =>
  /^\/characterize\//.test(now.path) &&
  now.characterizations.some(
    (each) =>
      now.path === `/characterize/${each.id}` &&
      each.steps.some((one) => one.step === step && one.state === "done"),
  );
const chosenOutput = (now: Situation) =>
  now.outputs.find((each) => each.id === Number(now.look.get("output"))) ?? now.outputs[0];
const inPolicies = (now: Situation) => now.path === "/policies";
const begun = (now: Situation, asked: string) => Date.parse(asked) > now.begunAt;

const OPEN: GuideStep = {
  what: "Open an artwork on the Bench.",
  why: "Everything is set and seen on one picture; its original is never changed.",
  at: ".sheet-card",
  room: "/bench",
  done: onBench,
};

export const GUIDES: Guide[] = [
  {
    key: "mesh",
    title: "A separation for a mesh",
    minutes: 12,
    steps: [
      OPEN,
      {
        what: "At Aim, choose a screen printing condition.",
        why: "The picture is shown as that press prints it from here on.",
        at: "[aria-label='Printing condition']",
        done: (now) => onBench(now) && /screen/i.test(now.condition?.process ?? ""),
      },
      {
        what: "See what cannot be printed: Out of gamut, or Largest errors below the picture.",
        why: "What is hatched changes most. If whole areas lose their drawing, try perceptual.",
        at: ".tools",
        done: (now) => now.look.get("mark") === "gamut" || now.look.get("strip") === "hits",
      },
      {
        what: "At Ink, set the ink limit to 240 % or less.",
        why: "More does not dry on cotton. No pixel of the written file has more.",
        at: ".panel",
        done: (now) => onBench(now) && (now.recipe?.ink.limits.total_percent ?? 999) <= 240,
      },
      {
        what: "At Plate, raise the minimum dot of a plate.",
        why: "A mesh does not hold the smallest dots: they are raised to it or dropped.",
        at: ".panel",
        done: (now) =>
          now.recipe?.plate.plates.some((plate) => plate.smallest !== "keep" && plate.smallest_percent > 0) ??
          false,
      },
      {
        what: "At Deliver, choose Films and look at the dots.",
        why: "Ruling and angles are seen before film is spent.",
        at: ".formats",
        done: (now) => now.recipe?.deliver.format === "films" && now.look.get("map") === "film",
      },
      {
        what: "Write the films.",
        why: "The run sheet beside them holds everything that was set; Make again gives the same bytes.",
        at: ".panel .foot .MuiButton-contained",
        done: written("separation"),
      },
    ],
  },
  {
    key: "medium",
    title: "A new medium, from chart to trusted profile",
    minutes: 15,
    steps: [
      {
        what: "At Conditions, begin a characterization: a name, a device, the medium.",
        why: "A condition is a press, its inks and one stock; a new medium is a new condition.",
        room: "/conditions",
        at: "section",
        done: ({ path }) => path.startsWith("/characterize/"),
      },
      {
        what: "Print and measure the ramps, and hold each ink where density stops rising.",
        why: "More ink than that costs and does not get darker.",
        done: stepDone("linearize"),
      },
      {
        what: "Find the total ink.",
        why: "The last step of the stairs that still got darker is enough.",
        done: stepDone("total"),
      },
      {
        what: "Print the chart and measure it.",
        why: "The profile is made of these patches.",
        done: stepDone("measure"),
      },
      {
        what: "Build.",
        why: "A model of the press is fitted; patches that fit nothing are named.",
        done: stepDone("build"),
      },
      {
        what: "Judge it, then trust it.",
        why: "Only a trusted profile is offered for jobs.",
        done: (now) =>
          now.characterizations.some(
            (each) =>
              each.condition_slug !== "" &&
              begun(now, each.changed_at) &&
              now.conditions.some((one) => one.slug === each.condition_slug && one.status === "trusted"),
          ),
      },
    ],
  },
  {
    key: "other-press",
    title: "The same job for another press",
    minutes: 8,
    steps: [
      OPEN,
      {
        what: "Lay out the sheet of variants.",
        why: "Conditions and intents side by side, over the same part of the picture.",
        at: ".tools",
        done: (now) => now.look.get("as") === "sheet",
      },
      {
        what: "Take a variant, or choose the other condition at Aim.",
        why: "What was set comes along where that press has the inks; limit and black are its own.",
        at: ".sheet-grid",
        done: (now) => onBench(now) && now.look.get("as") !== "sheet",
      },
      {
        what: "At Ink, see whether the limit and the pure inks suit this press.",
        why: "Black text stays black alone where it is asked to.",
        at: ".panel",
        done: station("ink"),
      },
      {
        what: "Write it at Deliver.",
        why: "For several presses in one go, check the others there.",
        at: ".panel .foot .MuiButton-contained",
        done: written("separation"),
      },
    ],
  },
  {
    key: "no-profiles",
    title: "A document for a printer who wants no profiles",
    minutes: 10,
    steps: [
      {
        what: "At Policies, import the document or choose one.",
        why: "It is looked into: spaces, profiles, pictures, spots, overprint.",
        room: "/policies",
        at: ".document-stage",
        done: inPolicies,
      },
      {
        what: "Choose an output whose delivery rule takes no profiles, or set its rule so.",
        why: "Every decision is taken before the file leaves the house.",
        room: "/policies",
        at: ".outputs",
        done: (now) => inPolicies(now) && chosenOutput(now)?.rule.profiles === "none",
      },
      {
        what: "Write the PDF.",
        why: "What the rule forbids is refused with a sentence, never changed in silence. The report says what was done.",
        at: ".document-stage",
        done: written("document"),
      },
    ],
  },
  {
    key: "twice",
    title: "Is this printer converting twice?",
    minutes: 10,
    steps: [
      {
        what: "At Policies, choose the output and see its ticket.",
        why: "Exactly one of application, driver and RIP should convert.",
        room: "/policies",
        at: ".ticket",
        done: inPolicies,
      },
      {
        what: "Print the check strip, measure it and load its values at the ticket.",
        why: "They are put beside what each wrong set-up would print; the likeliest comes first.",
        at: ".ticket",
        done: (now) => inPolicies(now) && document.querySelector(".ticket .ways") !== null,
      },
      {
        what: "Set the ticket so that one place converts.",
        why: "Then print the strip again.",
        at: ".ticket",
        done: (now) => inPolicies(now) && (chosenOutput(now)?.ticket.converts.length ?? 0) === 1,
      },
    ],
  },
  {
    key: "negative",
    title: "A contact negative",
    minutes: 12,
    steps: [
      OPEN,
      {
        what: "At Deliver, choose Negative.",
        why: "One film of the artwork's lightness, for printing by contact.",
        at: ".formats",
        done: (now) => now.recipe?.deliver.format === "negative",
      },
      {
        what: "Give the tone table of your process: from a measured wedge, a .cube, or drawn.",
        why: "Without it the paper swallows either the lights or the darks.",
        at: ".panel",
        done: (now) =>
          now.recipe?.deliver.negative.table.curve.points.some(([x, y]) => Math.abs(x - y) > 1e-6) ?? false,
      },
      {
        what: "Look at the negative.",
        why: "Mirrored if the emulsion lies down, at the film's own size.",
        at: ".panel",
        done: (now) => now.look.get("map") === "negative",
      },
      {
        what: "Write the negative.",
        why: "Its run sheet keeps the table.",
        at: ".panel .foot .MuiButton-contained",
        done: written("separation"),
      },
    ],
  },
  {
    key: "batch",
    title: "A batch for three conditions",
    minutes: 8,
    steps: [
      {
        what: "On the shelf, choose the artworks and press Separate.",
        why: "Each is written as it is set there, or with one saved recipe.",
        room: "/bench",
        at: ".shelf",
        done: () =>
          document.querySelector("[aria-label='Separate the chosen artworks'], .separate-many") !== null,
      },
      {
        what: "Choose three conditions, read the plan, begin.",
        why: "Names, sizes and clashes are said before anything is made.",
        room: "/bench",
        done: (now) => now.batches.some((each) => begun(now, each.asked_at)),
      },
      {
        what: "At Runs, open its line and wait for the end.",
        why: "Pause, resume, try again what failed; hand everything on as a ZIP.",
        room: "/runs",
        at: ".batch",
        done: (now) =>
          now.batches.some((each) => begun(now, each.asked_at) && (each.counts.done ?? 0) === each.total),
      },
    ],
  },
  {
    key: "watched",
    title: "Watching a folder",
    minutes: 8,
    steps: [
      {
        what: "At Runs, watch a folder: its name and what is done with what is put in.",
        why: "A condition or an output; subfolders as conditions if you like.",
        room: "/runs",
        at: "section",
        done: (now) => now.path === "/runs" && now.folders.some((each) => each.active),
      },
      {
        what: "Put a file into its in folder.",
        why: "Files that are still being written are waited for.",
        room: "/runs",
        done: (now) => now.folders.some((each) => each.files.some((file) => begun(now, file.found_at))),
      },
      {
        what: "Find the result in out, its run sheet beside it.",
        why: "What failed lies in failed, with a text that says why.",
        room: "/runs",
        done: (now) =>
          now.folders.some((each) =>
            each.files.some((file) => begun(now, file.found_at) && file.state === "done"),
          ),
      },
    ],
  },
];
