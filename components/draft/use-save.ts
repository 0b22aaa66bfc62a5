"use client";
import { useMutation } from "@tanstack/react-query";
import { request, RequestRefused } from "@/components/data/request";
import { parseSite } from "@/core/site-file/parse-site";
import type { SiteFile } from "@/core/site-file/schema";
import { useDraftOf } from "./site-draft";

type Saved = { version: number; file: SiteFile };

/** Saves the draft as a revision. Someone else's save in between is met field by field; nothing of either is lost. */
export function useSave(): { save: (note: string) => Promise<boolean>; saving: boolean } {
  const draft = useDraftOf();
  const saving = useMutation({
    mutationFn: async (note: string): Promise<Saved> => {
      const { siteId, version, draft: file } = draft.store.getState();
      const parsed = parseSite(JSON.parse(JSON.stringify(file)));
      if (!parsed.ok) throw new Error(parsed.problems[0]?.message ?? "The configuration is not right.");
      return request<Saved>("POST", `/api/sites/${siteId}/revisions`, {
        baseVersion: version,
        file: parsed.site,
        note,
      });
    },
  });
  const save = async (note: string): Promise<boolean> => {
    draft.say({ saving: true, problem: null });
    try {
      const saved = await saving.mutateAsync(note);
      draft.adopt(saved.file, saved.version);
      return true;
    } catch (error) {
      if (error instanceof RequestRefused && error.code === "staleVersion") {
        const { current } = error.details as { current: { version: number; by: string; file: SiteFile } };
        draft.meet(current);
      } else draft.say({ problem: error instanceof Error ? error.message : String(error) });
      return false;
    } finally {
      draft.say({ saving: false });
    }
  };
  return { save, saving: saving.isPending };
}
