import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { api, taken, upload } from "./client";
import type { components } from "./schema";

type Schemas = components["schemas"];
export type Output = Schemas["OutputOut"];
export type OutputWish = Schemas["OutputIn"];
export type Policy = Schemas["Policy"];
export type Row = Schemas["Row"];
export type Does = Row["does"];
export type Catches = Schemas["Catches"];
export type DeliveryRule = Schemas["DeliveryRule"];
export type PdfDocument = Schemas["DocumentOut"];
export type Decisions = Schemas["DecisionsOut"];
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

/** What an output would do with a document, as the output is now. */
export function useDecisions(document: PdfDocument | undefined, output: Output | undefined) {
  return useQuery({
    queryKey: ["decisions", document?.id, output?.id, output?.version],
    enabled: document !== undefined && output !== undefined,
    queryFn: () =>
      taken(
        api.GET("/api/policies/documents/{document_id}/decisions", {
          params: { path: { document_id: document?.id ?? 0 }, query: { output: output?.id ?? 0 } },
        }),
      ),
    // The same document under another version may stay until the new answer is there; another document may not.
    placeholderData: (before, query) => (query?.queryKey[1] === document?.id ? before : undefined),
  });
}

export function useOutputActions() {
  const queries = useQueryClient();
  const onSettled = () => {
    void queries.invalidateQueries({ queryKey: ["records"] });
    return queries.invalidateQueries({ queryKey: ["outputs"] });
  };
  const save = useMutation({
    mutationFn: ({ id, wish, version }: { id?: number; wish: OutputWish; version: number }) =>
      id === undefined
        ? taken(api.POST("/api/policies/outputs", { body: wish }))
        : taken(
            api.PUT("/api/policies/outputs/{output_id}", {
              params: { path: { output_id: id } },
              body: { ...wish, version },
            }),
          ),
    onSettled,
  });
  const remove = useMutation({
    mutationFn: (id: number) =>
      taken(api.DELETE("/api/policies/outputs/{output_id}", { params: { path: { output_id: id } } })),
    onSettled,
  });
  return { save, remove };
}
