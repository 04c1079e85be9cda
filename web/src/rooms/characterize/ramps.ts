import type { Step } from "../../api/characterizationQueries";

/** The measured ramp of an ink, empty where there is none. */
export const ramp = (result: Step["result"], ink: string) => result.ramps[ink] ?? [];

export const even = (values: number[]): [number, number][] =>
  values.map((value, at) => [(at * 100) / (values.length - 1), value * 100]);
