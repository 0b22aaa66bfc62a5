"use client";
import { Download } from "lucide-react";
import { useMemo, useState } from "react";
import { useGroups } from "@/components/data/use-groups";
import { useDeletedSites } from "@/components/data/use-site-end";
import { ButtonLink } from "@/components/kit/button";
import { useConventions } from "@/components/kit/conventions";
import { type Column, DataTable } from "@/components/kit/data-table";
import { TextField } from "@/components/kit/fields";
import { holdsWords } from "@/components/kit/find-words";
import { Input } from "@/components/kit/inputs";
import { Problem } from "@/components/kit/notice";
import { Section } from "@/components/kit/section";
import { foundBy, GROUP_KINDS, type GroupKind, type SiteGroup, type SortedSite } from "@/contracts/groups";

const HEADS: Record<GroupKind, string> = { client: "Client", area: "Area", crew: "Crew" };
type Sort = (siteId: string, kind: GroupKind, name: string) => void;

const columns = (sort: Sort): Column<SortedSite>[] => [
  { id: "name", header: "Site", accessorFn: (s) => s.name, cell: ({ row }) => row.original.name },
  ...GROUP_KINDS.map(
    (kind): Column<SortedSite> => ({
      id: kind,
      header: HEADS[kind],
      accessorFn: (s) => s[kind] ?? "",
      cell: ({ row: { original: s } }) => (
        <TextField
          label={`${HEADS[kind]} of ${s.name}`}
          hideLabel
          className="w-52"
          suggestions={`groups-${kind}`}
          value={s[kind] ?? ""}
          onCommit={(name) => sort(s.id, kind, name)}
        />
      ),
    }),
  ),
];

/** Sites sorted by client, area and crew: what they are found by, chosen by and worked on together. */
export function SitesPanel() {
  const { view, problem, sort, rename } = useGroups();
  const [find, setFind] = useState("");
  const { mutate } = sort;
  const made = useMemo(
    () => columns((siteId, kind, name) => mutate({ siteId, [kind]: name.trim() === "" ? null : name })),
    [mutate],
  );
  const failed = problem ?? sort.error?.message ?? rename.error?.message;
  if (!view) return failed ? <Problem>{failed}</Problem> : <p role="status">Looking up the sites…</p>;
  const shown = view.sites.filter((s) => holdsWords(foundBy(s), find));
  return (
    <>
      {failed && <Problem className="mb-2">{failed}</Problem>}
      <section aria-labelledby="sites" className="mb-8">
        <div className="mb-2 flex items-end justify-between gap-4 border-b-2 border-base-content pb-1">
          <h2 id="sites" className="text-xl">
            Sites
          </h2>
          <Input
            className="w-60"
            aria-label="Find a site"
            placeholder="Find a site"
            value={find}
            onChange={(e) => setFind(e.target.value)}
          />
        </div>
        {GROUP_KINDS.map((kind) => (
          <datalist key={kind} id={`groups-${kind}`}>
            {view.groups.flatMap((g) => (g.kind === kind ? [<option key={g.id} value={g.name} />] : []))}
          </datalist>
        ))}
        <DataTable
          label="Sites by client, area and crew"
          rows={shown}
          columns={made}
          idOf={(s) => s.id}
          empty={<p className="my-4">{view.sites.length === 0 ? "No site yet." : "No site matches."}</p>}
        />
      </section>
      <Section id="groups" title="Clients, areas and crews">
        {view.groups.length === 0 ? (
          <p>None yet: write one beside a site. A group is there as long as a site is in it.</p>
        ) : (
          <Groups groups={view.groups} onRename={(id, name) => rename.mutate({ id, name })} />
        )}
      </Section>
      <Deleted />
    </>
  );
}

function Groups({ groups, onRename }: { groups: SiteGroup[]; onRename: (id: string, name: string) => void }) {
  return (
    <div className="flex flex-wrap gap-x-10 gap-y-4">
      {GROUP_KINDS.map((kind) => (
        <ul key={kind} aria-label={HEADS[kind]} className="grid content-start gap-1">
          <li className="text-xs text-faint">{HEADS[kind]}</li>
          {groups.flatMap((g) =>
            g.kind === kind
              ? [
                  <li key={g.id} className="flex items-center gap-2">
                    <TextField
                      label={`Name of the ${kind} ${g.name}`}
                      hideLabel
                      className="w-56"
                      value={g.name}
                      onCommit={(name) => name.trim() !== "" && onRename(g.id, name)}
                    />
                    <span className="text-faint">
                      {g.sites} site{g.sites === 1 ? "" : "s"}
                    </span>
                  </li>,
                ]
              : [],
          )}
        </ul>
      ))}
    </div>
  );
}

/** Sites that were deleted: what is left of each is its file. */
function Deleted() {
  const { here } = useConventions();
  const { sites } = useDeletedSites();
  if (sites.length === 0) return null;
  return (
    <Section id="deleted" title="Deleted">
      <ul>
        {sites.map((s) => (
          <li key={s.id} className="flex items-center justify-between gap-4 border-b border-base-300 py-1">
            <span>
              {s.name}
              <span className="block text-xs text-faint">
                {s.deletedBy}, {here(s.deletedAt)}
              </span>
            </span>
            <ButtonLink rank="quiet" icon={Download} href={`/api/organisation/deleted-sites/${s.id}`} download>
              Its file
            </ButtonLink>
          </li>
        ))}
      </ul>
    </Section>
  );
}
