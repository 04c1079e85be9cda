import { useProfiles } from "../../api/houseQueries";
import { useConditions } from "../../api/queries";
import { SPACES } from "../../shared/ui/ProfileChoice";

/** Everything that can be a step: RGB spaces, printing conditions, profiles that were imported, by choice and name. */
export function useProfileNames(): [string, string][] {
  const conditions = useConditions().data ?? [];
  const stored = useProfiles().data ?? [];
  const named = conditions.map((each): [string, string] => [each.profile_sha256, each.name]);
  const others = stored
    .filter((each) => !named.some(([sha256]) => sha256 === each.sha256))
    .map((each): [string, string] => [each.sha256, each.name]);
  return [...SPACES.map((each): [string, string] => [each, each]), ...named, ...others];
}
