import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import { api, REMOVED, taken } from "./client";
import type { components } from "./schema";

export type Removal = components["schemas"]["RemovedOut"];

const look = () => taken(api.GET("/api/removed"));

/** What was removed within the last quarter of an hour, by whomever. */
export function useRemovedLately() {
  return useQuery({ queryKey: ["removed"], queryFn: look });
}

export function useBringBack() {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: (id: number) =>
      taken(api.POST("/api/removed/{removal_id}/back", { params: { path: { removal_id: id } } })),
    // Whatever it was, it may be shown in any room.
    onSettled: () => queries.invalidateQueries(),
  });
}

/** What one has just removed: its removal, or 'gone' where the server had no room to keep it. */
export function useJustRemoved(user: string) {
  const queries = useQueryClient();
  const [told, setTold] = useState<Removal | "gone">();
  const latest = useRef<Promise<number>>(undefined);
  useEffect(() => {
    const newest = (found: Removal[]) => found.find((each) => each.author_name === user);
    latest.current = look().then(
      (found) => newest(found)?.id ?? 0,
      () => 0,
    );
    const removed = async () => {
      const before = (await latest.current) ?? 0;
      const found = await queries.fetchQuery({ queryKey: ["removed"], queryFn: look, staleTime: 0 });
      const mine = newest(found);
      latest.current = Promise.resolve(Math.max(before, mine?.id ?? 0));
      setTold(mine && mine.id > before ? mine : "gone");
    };
    window.addEventListener(REMOVED, removed);
    return () => window.removeEventListener(REMOVED, removed);
  }, [user, queries]);
  return [told, () => setTold(undefined)] as const;
}
