"use client";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { request } from "@/components/data/request";
import type { FindingAnswerRequest, LogTaken, MorningsStatus, StationMornings } from "@/contracts/mornings";
import type { SiteFile } from "@/core/site-file/schema";

export const morningsKey = (siteId: string) => ["mornings", siteId];
export const morningsPath = (siteId: string) => `/api/sites/${siteId}/mornings`;

/** What a site's nights say on the newest morning, and what is done about it. */
export function useMornings(siteId: string, adopt: (file: SiteFile, version: number) => void) {
  const client = useQueryClient();
  const queryKey = morningsKey(siteId);
  const path = morningsPath(siteId);
  const status = useQuery({
    queryKey,
    queryFn: () => request<MorningsStatus>("GET", path),
    staleTime: 0,
  });
  const answer = useMutation({
    mutationFn: (body: FindingAnswerRequest) => request<MorningsStatus>("PATCH", path, body),
    onSuccess: async (now, { answer }) => {
      client.setQueryData(queryKey, now);
      // The figure that was taken stands in a revision of its own.
      if (answer !== "taken") return;
      const { file, version } = await request<{ version: number; file: SiteFile }>(
        "GET",
        `/api/sites/${siteId}/revisions`,
      );
      adopt(file, version);
    },
  });
  const bring = useMutation({
    mutationFn: (text: string) => request<LogTaken>("POST", path, { text }),
    onSettled: () => client.invalidateQueries({ queryKey }),
  });
  return {
    status: status.data ?? null,
    problem: status.error?.message ?? null,
    answer: (body: FindingAnswerRequest): Promise<boolean> =>
      answer.mutateAsync(body).then(
        () => true,
        () => false,
      ),
    answering: answer.isPending,
    answerProblem: answer.error?.message ?? null,
    bring: bring.mutate,
    bringing: bring.isPending,
    brought: bring.data ?? null,
    bringProblem: bring.error?.message ?? null,
  };
}

/** A station's estimate on each morning. */
export function useStationMornings(siteId: string, stationId: string | null, upTo: string | null) {
  const asked = useQuery({
    queryKey: [...morningsKey(siteId), stationId, upTo],
    queryFn: () => request<StationMornings>("GET", `${morningsPath(siteId)}/stations/${stationId}`),
    enabled: stationId !== null && upTo !== null,
  });
  return { answer: asked.data ?? null, problem: asked.error?.message ?? null };
}
