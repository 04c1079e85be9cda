/** What a measured ramp is made of: dot %, density above paper, L*. */
export type RampRow = [number, number, number];

export interface RampResult {
  ramps?: Record<string, RampRow[]>;
  caps?: Record<string, number>;
  bulges?: Record<string, number>;
  advice?: string[];
  calibration?: {
    curves: { ink: string; dark: number[]; light_ink: string; light: number[] }[];
  };
}

export const even = (values: number[]): [number, number][] =>
  values.map((value, at) => [(at * 100) / (values.length - 1), value * 100]);
