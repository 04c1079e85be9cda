import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { api, taken, upload } from "./client";
import type { components } from "./schema";

export type Characterization = components["schemas"]["CharacterizationOut"];
export type Step = components["schemas"]["StepOut"];
export type Device = components["schemas"]["DeviceOut"];

const busy = (found: Characterization) => found.steps.some((step) => step.state === "measuring");

export function useDevices() {
  return useQuery({
    queryKey: ["devices"],
    staleTime: Infinity,
    queryFn: () => taken(api.GET("/api/characterizations/devices")),
  });
}

export function useCharacterizations() {
  return useQuery({
    queryKey: ["characterizations"],
    queryFn: () => taken(api.GET("/api/characterizations")),
  });
}

/** One characterization; asked for often while something is being measured, so that patches appear as they are read. */
export function useCharacterization(id: number) {
  return useQuery({
    queryKey: ["characterization", id],
    queryFn: () =>
      taken(
        api.GET("/api/characterizations/{characterization_id}", {
          params: { path: { characterization_id: id } },
        }),
      ),
    refetchInterval: (query) => (query.state.data && busy(query.state.data) ? 450 : false),
  });
}

export function useStartCharacterization() {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: (body: { name: string; device_slug: string; inks: string[]; medium_id: number | null }) =>
      taken(api.POST("/api/characterizations", { body })),
    onSuccess: () => queries.invalidateQueries({ queryKey: ["characterizations"] }),
  });
}

/** What can be done with a characterization; each answer is the characterization as it is then. */
/** What is decided at a step; what is left out is not decided. */
export type StepSettings = Partial<components["schemas"]["StepSettings"]>;

export function useStepActions(id: number) {
  const queries = useQueryClient();
  const path = { characterization_id: id };
  const keep = (found: Characterization) => {
    queries.setQueryData(["characterization", id], found);
    // Answers can overtake each other; what is shown in the end is what the server holds.
    void queries.invalidateQueries({ queryKey: ["characterization", id] });
    void queries.invalidateQueries({ queryKey: ["characterizations"] });
    void queries.invalidateQueries({ queryKey: ["conditions"] });
    void queries.invalidateQueries({ queryKey: ["runs"] });
  };
  const decide = useMutation({
    mutationFn: ({ step, settings }: { step: string; settings: StepSettings }) =>
      taken(
        api.PUT("/api/characterizations/{characterization_id}/steps/{step}", {
          params: { path: { ...path, step } },
          body: { settings: { crossings: {}, caps: {}, ...settings } },
        }),
      ),
    onSuccess: keep,
  });
  const measure = useMutation({
    mutationFn: (step: string) =>
      taken(
        api.POST("/api/characterizations/{characterization_id}/steps/{step}/measure", {
          params: { path: { ...path, step } },
        }),
      ),
    onSuccess: keep,
  });
  const load = useMutation({
    mutationFn: ({ step, file }: { step: string; file: File }) =>
      upload<Characterization>(file, () => undefined, `/api/characterizations/${id}/steps/${step}/file`),
    onSuccess: keep,
  });
  const build = useMutation({
    mutationFn: (settings: components["schemas"]["BuildRequest"]) =>
      taken(
        api.POST("/api/characterizations/{characterization_id}/build", {
          params: { path },
          body: { settings },
        }),
      ),
    onSuccess: keep,
  });
  const judge = useMutation({
    mutationFn: () =>
      taken(api.POST("/api/characterizations/{characterization_id}/judge", { params: { path } })),
    onSuccess: keep,
  });
  const remove = useMutation({
    mutationFn: () => taken(api.DELETE("/api/characterizations/{characterization_id}", { params: { path } })),
    onSuccess: () => queries.invalidateQueries({ queryKey: ["characterizations"] }),
  });
  const error =
    decide.error ?? measure.error ?? load.error ?? build.error ?? judge.error ?? remove.error ?? undefined;
  return { decide, measure, load, build, judge, remove, error };
}
