"use client";
import { useMutation } from "@tanstack/react-query";
import { request, RequestRefused } from "@/components/data/request";
import { parseSite } from "@/core/site-file/parse-site";
import type { SiteFile } from "@/core/site-file/schema";
import { useDraft, useDraftOf } from "./site-draft";

type Saved = { version: number; file: SiteFile };

/** Saves the draft as a revision. Someone else's save in between is met field by field; nothing of either is lost. */
export function useSave(): { save: (note: string) => Promise<boolean>; saving: boolean } {
  const draft = useDraftOf();
  const saving = useDraft((s) => s.saving);
  const sending = useMutation({
    mutationFn: async (note: string): Promise<void> => {
      const { siteId, version, draft: sent } = draft.store.getState();
      const parsed = parseSite(JSON.parse(JSON.stringify(sent)));
      if (!parsed.ok) throw new Error(parsed.problems[0]?.message ?? "The configuration is not right.");
      const back = await request<Saved>("POST", `/api/sites/${siteId}/revisions`, {
        baseVersion: version,
        file: parsed.site,
        note,
      });
      draft.saved(sent, back.file, back.version);
    },
  });
  const save = async (note: string): Promise<boolean> => {
    draft.say({ saving: true, problem: null });
    try {
      await sending.mutateAsync(note);
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
  return { save, saving };
}
