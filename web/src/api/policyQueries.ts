import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { api, taken, upload } from "./client";
import { useRuns } from "./queries";
import type { components } from "./schema";

type Schemas = components["schemas"];
export type Output = Schemas["OutputOut"];
export type OutputData = Schemas["OutputIn"];
export type Policy = Schemas["Policy"];
export type Row = Schemas["Row"];
export type Does = Row["does"];
export type Catches = Schemas["Catches"];
export type DeliveryRule = Schemas["DeliveryRule"];
export type Ticket = Schemas["Ticket"];
export type PageInks = Schemas["PageInks"];
export type Compared = Schemas["Compared"];
export type StripRead = Schemas["StripRead"];
export type PdfDocument = Schemas["DocumentOut"];
export type Decisions = Schemas["DecisionsOut"];
export type Reading = Schemas["ReadingOut"];
export type DecisionRecord = Schemas["RecordOut"];

export function useOutputs() {
  return useQuery({ queryKey: ["outputs"], queryFn: () => taken(api.GET("/api/policies/outputs")) });
}

export function useReadyMade() {
  return useQuery({
    queryKey: ["ready-made policies"],
    queryFn: () => taken(api.GET("/api/policies/ready")),
    staleTime: Number.POSITIVE_INFINITY,
  });
}

export function useDocuments() {
  return useQuery({ queryKey: ["documents"], queryFn: () => taken(api.GET("/api/policies/documents")) });
}

export function useDocumentActions() {
  const queries = useQueryClient();
  const onSettled = () => queries.invalidateQueries({ queryKey: ["documents"] });
  const bringIn = useMutation({
    mutationFn: (file: File) =>
      upload<Schemas["ArrivedDocument"]>(file, () => undefined, "/api/policies/documents"),
    onSettled,
  });
  const remove = useMutation({
    mutationFn: (id: number) =>
      taken(api.DELETE("/api/policies/documents/{document_id}", { params: { path: { document_id: id } } })),
    onSettled,
  });
  const send = useMutation({
    mutationFn: ({ id, outputs }: { id: number; outputs: number[] }) =>
      taken(
        api.POST("/api/policies/documents/{document_id}/send", {
          params: { path: { document_id: id } },
          body: { outputs },
        }),
      ),
    onSettled: () => queries.invalidateQueries({ queryKey: ["runs"] }),
  });
  return { bringIn, remove, send };
}

/** What is told of a large document once a job has worked it out; the job is asked for once. */
function useRead<Told extends object>(
  queryKey: readonly unknown[],
  enabled: boolean,
  look: () => Promise<Told | Reading>,
  ask: () => Promise<unknown>,
) {
  const found = useQuery({
    queryKey,
    enabled,
    queryFn: async () => {
      const told = await look();
      if ("asked" in told && !told.asked) await ask();
      return told;
    },
    refetchInterval: (query) => (query.state.data && "asked" in query.state.data ? 700 : false),
    // The same document under another version may stay until the new answer is there; another document may not.
    placeholderData: (before, query) => (query?.queryKey[1] === queryKey[1] ? before : undefined),
  });
  const told = found.data;
  return {
    data: told && !("asked" in told) ? told : undefined,
    reading: told && "asked" in told ? told : undefined,
    error: found.error,
    isFetching: found.isFetching,
  };
}

/** What an output would do with a document, as the output is now; a large one is read by a job. */
export function useDecisions(document: PdfDocument | undefined, output: Output | undefined) {
  const place = {
    params: { path: { document_id: document?.id ?? 0 }, query: { output: output?.id ?? 0 } },
  };
  return useRead<Decisions>(
    ["decisions", document?.id, output?.id, output?.version],
    document !== undefined && output !== undefined,
    () => taken(api.GET("/api/policies/documents/{document_id}/decisions", place)),
    () => taken(api.POST("/api/policies/documents/{document_id}/decisions", place)),
  );
}

/** All that an output would do with a page of a document of which not everything is told with the whole. */
export function usePageDecisions(
  document: PdfDocument | undefined,
  output: Output | undefined,
  page: number,
  wanted: boolean,
) {
  return useQuery({
    queryKey: ["page decisions", document?.id, output?.id, output?.version, page],
    enabled: wanted && document !== undefined && output !== undefined,
    queryFn: () =>
      taken(
        api.GET("/api/policies/documents/{document_id}/decisions/{page}", {
          params: {
            path: { document_id: document?.id ?? 0, page },
            query: { output: output?.id ?? 0 },
          },
        }),
      ),
  });
}

/** Inks of a page as an output has it printed; asked for only where plates or coverage are looked at. */
export function usePageInks(
  document: PdfDocument | undefined,
  page: number,
  output: Output | undefined,
  wanted: boolean,
) {
  return useQuery({
    queryKey: ["page inks", document?.id, page, output?.id, output?.version],
    enabled: wanted && document !== undefined && output !== undefined,
    queryFn: () =>
      taken(
        api.GET("/api/policies/documents/{document_id}/pages/{page}/inks", {
          params: {
            path: { document_id: document?.id ?? 0, page },
            query: { output: output?.id ?? 0 },
          },
        }),
      ),
  });
}

/** What is set beside an output: another one, or an earlier version of it. */
export interface Beside {
  id: number;
  version: number;
}

/** What two outputs make of a document, where they differ; a large one is compared by a job. */
export function useCompared(
  document: PdfDocument | undefined,
  output: Output | undefined,
  beside: Beside | undefined,
) {
  const place = {
    params: {
      path: { document_id: document?.id ?? 0 },
      query: { one: output?.id ?? 0, other: beside?.id ?? 0, version: beside?.version ?? 0 },
    },
  };
  return useRead<Compared>(
    ["compared", `${document?.id} ${beside?.id} ${beside?.version}`, output?.id, output?.version],
    document !== undefined && output !== undefined && beside !== undefined,
    () => taken(api.GET("/api/policies/documents/{document_id}/compare", place)),
    () => taken(api.POST("/api/policies/documents/{document_id}/compare", place)),
  );
}

/** Kinds of runs that go through an output, or by its rule. */
const SENDS = new Set(["document", "separation"]);

/** What was last sent through an output before it changed; looked up again when something else was written. */
export function useSentBefore(output: Output) {
  const sent = useRuns().data?.filter((run) => SENDS.has(run.kind) && run.state === "done") ?? [];
  const last = sent
    .map((run) => run.ended_at ?? "")
    .sort()
    .at(-1);
  return useQuery({
    queryKey: ["sent before", output.id, output.version, last],
    placeholderData: (before, query) => (query?.queryKey[1] === output.id ? before : undefined),
    queryFn: () =>
      taken(
        api.GET("/api/policies/outputs/{output_id}/sent-before", {
          params: { path: { output_id: output.id } },
        }),
      ),
  });
}

/** The check strip of an output: what can print it here, and reading it. */
export function useCheckStrip(output: Output, wanted: boolean) {
  const path = { output_id: output.id };
  const strip = useQuery({
    queryKey: ["strip", output.id, output.version],
    enabled: wanted,
    queryFn: () => taken(api.GET("/api/policies/outputs/{output_id}/strip", { params: { path } })),
  });
  const print = useMutation({
    mutationFn: (body: Schemas["StripPrint"]) =>
      taken(api.POST("/api/policies/outputs/{output_id}/strip/print", { params: { path }, body })),
  });
  const read = useMutation({
    mutationFn: (file: File) =>
      upload<StripRead>(file, () => undefined, `/api/policies/outputs/${output.id}/strip/read`),
  });
  return { strip, print, read };
}

export function useOutputActions() {
  const queries = useQueryClient();
  const onSettled = () => {
    void queries.invalidateQueries({ queryKey: ["records"] });
    return queries.invalidateQueries({ queryKey: ["outputs"] });
  };
  const save = useMutation({
    mutationFn: ({ id, data, version }: { id?: number; data: OutputData; version: number }) =>
      id === undefined
        ? taken(api.POST("/api/policies/outputs", { body: data }))
        : taken(
            api.PUT("/api/policies/outputs/{output_id}", {
              params: { path: { output_id: id } },
              body: { ...data, version },
            }),
          ),
    onSettled,
  });
  const remove = useMutation({
    mutationFn: (id: number) =>
      taken(api.DELETE("/api/policies/outputs/{output_id}", { params: { path: { output_id: id } } })),
    onSettled,
  });
  const lookedAt = useMutation({
    mutationFn: (id: number) =>
      taken(api.POST("/api/policies/outputs/{output_id}/looked-at", { params: { path: { output_id: id } } })),
    onSettled,
  });
  const importPolicy = useMutation({
    mutationFn: ({ id, version, file }: { id: number; version: number; file: File }) =>
      upload<Output>(file, () => undefined, `/api/policies/outputs/${id}/policy?version=${version}`),
    onSettled,
  });
  return { save, remove, lookedAt, importPolicy };
}
