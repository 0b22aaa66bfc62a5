import { render, type RenderResult } from "@testing-library/react";
import userEvent, { type UserEvent } from "@testing-library/user-event";
import { DataProvider } from "@/components/data/data-provider";
import { SiteDraft, useDraftOf } from "@/components/draft/site-draft";
import { SiteLogProvider } from "@/components/draft/site-log";
import type { Draft } from "@/components/draft/store";
import { ConventionsProvider } from "@/components/kit/conventions";
import { nightAnswer } from "@/core/summary/night-answer";
import type { SiteFile } from "@/core/site-file/schema";

export type SiteAround = RenderResult & { user: UserEvent; draft: Draft; now: () => SiteFile };

/** Hands the draft of the site out to the test. */
function Hold({ held }: { held: { draft?: Draft } }) {
  held.draft = useDraftOf();
  return null;
}

/** A part of the interface with a site around it, as the frame gives it; nights are worked out in place of in a worker. */
export function renderOnSite(
  file: SiteFile,
  part: React.ReactNode,
  { role = "manager", date = "2026-07-14", siteId = "site" }: { role?: string; date?: string; siteId?: string } = {},
): SiteAround {
  const held: { draft?: Draft } = {};
  const make = () => ({
    night: async (site: SiteFile, on: string) => nightAnswer(site, on),
    end: () => {},
  });
  const drawn = render(
    <DataProvider>
      <SiteDraft siteId={siteId} role={role} userName="Ada Fennimore" version={3} date={date} file={file} make={make}>
        <SiteLogProvider first={{ openAlarms: 0, calm: null, faulted: null, there: null, nights: null }}>
          <ConventionsProvider system={file.site.units} timeZone={file.site.timeZone}>
            <Hold held={held} />
            {part}
          </ConventionsProvider>
        </SiteLogProvider>
      </SiteDraft>
    </DataProvider>,
  );
  const { draft } = held;
  if (!draft) throw new Error("The part was not drawn.");
  return { ...drawn, user: userEvent.setup(), draft, now: () => draft.store.getState().draft };
}
