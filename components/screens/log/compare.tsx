"use client";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { request } from "@/components/data/request";
import { ChoiceField } from "@/components/kit/fields";
import { Problem } from "@/components/kit/notice";
import type { Comparison } from "@/contracts/comparison";
import type { RevisionHead } from "@/contracts/log";
import type { SiteNames } from "@/contracts/rounds";

/** Any two revisions of the site, or the site and another one, in words. */
export function Compare({
  siteId,
  revisions,
  when,
}: {
  siteId: string;
  revisions: readonly RevisionHead[];
  when: (iso: string) => string;
}) {
  const newest = revisions[0]?.version ?? 1;
  const [with_, setWith] = useState("");
  const [from, setFrom] = useState(String(revisions[1]?.version ?? newest));
  const [to, setTo] = useState(String(newest));
  const sites = useQuery({ queryKey: ["sites"], queryFn: () => request<SiteNames>("GET", "/api/sites") });
  const asked = with_ === "" ? `from=${from}&to=${to}` : `with=${with_}`;
  const answer = useQuery({
    queryKey: ["compare", siteId, asked],
    queryFn: () => request<Comparison>("GET", `/api/sites/${siteId}/compare?${asked}`),
  });
  const options = revisions.map((r) => [String(r.version), `${r.version}, ${when(r.madeAt)}`] as const);
  return (
    <section aria-label="Compare" className="max-w-5xl">
      <div className="mb-3 flex flex-wrap items-end gap-3">
        <ChoiceField
          label="This site with"
          className="w-64"
          value={with_}
          options={[
            ["", "itself, another revision"],
            ...(sites.data?.sites ?? []).filter((s) => s.id !== siteId).map((s) => [s.id, s.name] as const),
          ]}
          onCommit={setWith}
        />
        {with_ === "" && (
          <>
            <ChoiceField label="From revision" className="w-56" value={from} options={options} onCommit={setFrom} />
            <ChoiceField label="To revision" className="w-56" value={to} options={options} onCommit={setTo} />
          </>
        )}
      </div>
      {answer.error && <Problem>{answer.error.message}</Problem>}
      {answer.isLoading && <p role="status">Comparing…</p>}
      {answer.data && <Differences of={answer.data} />}
    </section>
  );
}

function Differences({ of: { from, to, changes } }: { of: Comparison }) {
  if (changes.length === 0)
    return (
      <p role="status">
        {from} and {to} do not differ.
      </p>
    );
  return (
    <>
      <p role="status" className="mb-1">
        {changes.length} difference{changes.length === 1 ? "" : "s"} from {from} to {to}:
      </p>
      <ul className="list-disc pl-6">
        {changes.map((c) => (
          <li key={`${c.path}${c.words}`}>{c.words}</li>
        ))}
      </ul>
    </>
  );
}
