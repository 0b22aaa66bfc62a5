"use client";
import { Download } from "lucide-react";
import { PageHead } from "@/components/frame/page-head";
import { ButtonLink } from "@/components/kit/button";
import { Problem } from "@/components/kit/notice";
import { useOrganisation } from "@/components/data/use-organisation";
import { AuditTable } from "./audit-table";
import { EraseForm } from "./erase-form";
import { KeepingForm } from "./keeping-form";

/** What a manager answers for: how long things are kept, what leaves, who did what, and the end of it all. */
export function OrganisationScreen({ who }: { who: string }) {
  const { view, problem, keep, erase } = useOrganisation();
  return (
    <>
      <PageHead title="Organisation" who={who} about={view?.name} />
      <main className="px-4 pb-6 max-w-6xl">
        {problem && <Problem>{problem}</Problem>}
        {view && (
          <>
            <section aria-labelledby="keeping" className="mb-8">
              <h2 id="keeping" className="text-xl border-b-2 border-base-content mb-2">
                How long things are kept
              </h2>
              <KeepingForm
                keeping={view.keeping}
                busy={keep.isPending}
                problem={keep.error?.message ?? null}
                onKeep={(values) => keep.mutate(values)}
              />
            </section>
            <section aria-labelledby="everything" className="mb-8">
              <h2 id="everything" className="text-xl border-b-2 border-base-content mb-2">
                Everything of this organisation
              </h2>
              <p className="max-w-prose mb-3">
                All that Presa keeps of {view.name} as of one moment: sites with every revision, nights, alarms with
                their photographs, readings, people without their passwords. One line of JSON a row, packed with gzip.
              </p>
              <ButtonLink icon={Download} href="/api/organisation/everything" download>
                Export everything
              </ButtonLink>
            </section>
            <section aria-labelledby="audit" className="mb-8">
              <h2 id="audit" className="text-xl border-b-2 border-base-content mb-2">
                Who did what
              </h2>
              <AuditTable people={view.people} />
            </section>
            <section aria-labelledby="erase">
              <h2 id="erase" className="text-xl border-b-2 border-base-content mb-2">
                Erase this organisation
              </h2>
              <EraseForm
                name={view.name}
                busy={erase.isPending}
                problem={erase.error?.message ?? null}
                onErase={(asked) => erase.mutate(asked)}
              />
            </section>
          </>
        )}
      </main>
    </>
  );
}
