import { useMutation } from "@tanstack/react-query";
import { api, type Recipe, taken } from "../../../api/client";
import { useConditions } from "../../../api/queries";

interface Props {
  inks: string[];
  onUse: (limits: Recipe["ink"]["limits"], black: Recipe["ink"]["black"]) => void;
}

/** Limits and black that a profile of these inks was built with, taken over for the artwork. */
export function BuiltWith({ inks, onUse }: Props) {
  const fits = useConditions().data?.filter((each) => each.inks.join() === inks.join()) ?? [];
  const read = useMutation({
    mutationFn: async (slug: string) =>
      await taken(api.GET("/api/conditions/{slug}/build-settings", { params: { path: { slug } } })),
    onSuccess: ({ limits, black }) => onUse(limits, black),
  });
  return (
    <>
      <select
        className="field"
        aria-label="As a profile was built"
        value={read.data ? read.variables : ""}
        disabled={read.isPending}
        onChange={(event) => event.target.value && read.mutate(event.target.value)}
      >
        <option value="">As a profile was built</option>
        {fits.map((each) => (
          <option key={each.slug} value={each.slug}>
            {each.name}
          </option>
        ))}
      </select>
      {read.error && (
        <p className="notice" role="alert">
          {read.error.message}
        </p>
      )}
    </>
  );
}
