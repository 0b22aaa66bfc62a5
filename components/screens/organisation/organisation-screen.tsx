"use client";
import { Download } from "lucide-react";
import { useOrganisation } from "@/components/data/use-organisation";
import { PageHead } from "@/components/frame/page-head";
import { oneOf, useScreenParam } from "@/components/frame/use-screen-param";
import { Branches } from "@/components/kit/branches";
import { ButtonLink } from "@/components/kit/button";
import { Problem } from "@/components/kit/notice";
import { Section } from "@/components/kit/section";
import type { OrganisationView } from "@/contracts/organisation";
import { AuditTable } from "./audit-table";
import { EraseForm } from "./erase-form";
import { KeepingForm } from "./keeping-form";
import { LogoField } from "./logo-field";
import { PeoplePanel } from "./people-panel";
import { SettingsForm } from "./settings-form";
import { SitesPanel } from "./sites-panel";
import { ToldPanel } from "./told-panel";
import { VisitsPanel } from "./visits/visits-panel";

const VIEWS = [
  { id: "people", label: "People" },
  { id: "sites", label: "Sites" },
  { id: "settings", label: "Settings" },
  { id: "visits", label: "Visits" },
  { id: "told", label: "What is told" },
  { id: "audit", label: "Who did what" },
  { id: "kept", label: "What is kept" },
] as const;
type View = (typeof VIEWS)[number]["id"];
const isView = oneOf(VIEWS);

/** What a manager answers for: who is here, how sites are sorted, who did what, how long things are kept, and the end of it all. */
export function OrganisationScreen({ who, me }: { who: string; me: string }) {
  const organisation = useOrganisation();
  const { view: about, problem } = organisation;
  const [view, setView] = useScreenParam<View>("view", "people", { fits: isView });
  return (
    <>
      <PageHead
        title="Organisation"
        who={who}
        about={about?.name}
        tools={<Branches label="Views of Organisation" views={VIEWS} at={view} onChange={setView} />}
      />
      <main className="px-4 pb-6 max-w-6xl">
        {problem && <Problem>{problem}</Problem>}
        {view === "people" && <PeoplePanel me={me} />}
        {view === "sites" && <SitesPanel />}
        {view === "settings" && (
          <>
            <Section id="settings" title="Settings">
              <SettingsForm />
            </Section>
            <Section id="logo" title="Logo for paper">
              <LogoField />
            </Section>
          </>
        )}
        {view === "visits" && <VisitsPanel />}
        {view === "told" && <ToldPanel />}
        {about && view === "audit" && <AuditTable people={about.people} />}
        {about && view === "kept" && <Kept about={about} keep={organisation.keep} erase={organisation.erase} />}
      </main>
    </>
  );
}

function Kept({
  about,
  keep,
  erase,
}: { about: OrganisationView } & Pick<ReturnType<typeof useOrganisation>, "keep" | "erase">) {
  return (
    <>
      <Section id="keeping" title="How long things are kept">
        <KeepingForm
          keeping={about.keeping}
          busy={keep.isPending}
          problem={keep.error?.message ?? null}
          onKeep={(values) => keep.mutate(values)}
        />
      </Section>
      <Section id="everything" title="Everything of this organisation">
        <p className="max-w-prose mb-3">
          All that Presa keeps of {about.name} as of one moment: sites with every revision, nights, alarms with their
          photographs, readings, people without their passwords. One line of JSON a row, packed with gzip.
        </p>
        <ButtonLink icon={Download} href="/api/organisation/everything" download>
          Export everything
        </ButtonLink>
      </Section>
      <Section id="erase" title="Erase this organisation">
        <EraseForm
          name={about.name}
          busy={erase.isPending}
          problem={erase.error?.message ?? null}
          onErase={(asked) => erase.mutate(asked)}
        />
      </Section>
    </>
  );
}
