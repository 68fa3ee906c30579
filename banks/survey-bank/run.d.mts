import type { surveySite } from "../../src/survey/index.js";

export declare function runBank(survey: typeof surveySite): Promise<{
  problems: number;
  rightTrees: number;
  missed: string[];
  falseAlarms: string[];
}>;
