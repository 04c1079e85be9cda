import text from "../../../docs/guide/settings.md?raw";

/** What a setting does, in a sentence or two, and where the guide says it. */
export interface Explanation {
  sentence: string;
  href: string;
}

/** The place of a setting on the guide's page; the server gives its lines the same ids. */
export const placeOf = (name: string) => name.toLowerCase().replaceAll(" ", "-");

/** The lines '- **Name** is what it is.' of the guide's page of settings, by name: said once for page and control. */
export const EXPLAINED: ReadonlyMap<string, Explanation> = new Map(
  [...text.matchAll(/^- \*\*([^*]+)\*\* (.+)$/gm)].map(([, name = "", rest = ""]) => [
    name,
    { sentence: `${name} ${rest.replaceAll("*", "")}`, href: `/guide/settings#${placeOf(name)}` },
  ]),
);
