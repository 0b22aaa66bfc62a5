"use client";
import { useState } from "react";
import { usePeople } from "@/components/data/use-people";
import { Button } from "@/components/kit/button";
import { useConventions } from "@/components/kit/conventions";
import { Dialog } from "@/components/kit/dialog";
import { Problem } from "@/components/kit/notice";
import { Section } from "@/components/kit/section";
import { OnceTold } from "@/components/kit/once-told";
import { Scroller } from "@/components/kit/scroller";
import { Table } from "@/components/kit/table";
import type { Invitation, MadeLink, Person, PersonAction } from "@/contracts/people";
import { InviteForm } from "./invite-form";
import { PersonRow } from "./person-row";
import { RolesTable } from "./roles-table";
import { SitesOfPerson } from "./sites-of-person";

type Told = MadeLink & { about: string };

/** Who is in the organisation: invited, in which role, signed in where, gone. */
export function PeoplePanel({ me }: { me: string }) {
  const { here } = useConventions();
  const { view, problem, invite, withdraw, act, takeOut } = usePeople();
  const [told, setTold] = useState<Told | null>(null);
  const [leaving, setLeaving] = useState<Person | null>(null);
  const [giving, setGiving] = useState<Person | null>(null);
  const failed = [invite, withdraw, act, takeOut].find((m) => m.error)?.error?.message ?? problem;
  const onAct = async (person: Person, asked: PersonAction): Promise<void> => {
    const { link } = await act.mutateAsync({ id: person.id, ...asked });
    setTold(link && { ...link, about: `${person.name} chooses another password with it` });
  };
  if (!view) return failed ? <Problem>{failed}</Problem> : <p role="status">Looking who is here…</p>;
  const present = view.people.filter((p) => p.leftAt === null);
  const gone = view.people.filter((p) => p.leftAt !== null);
  return (
    <>
      <section aria-labelledby="invite" className="mb-6">
        <h2 id="invite" className="text-xl mb-2">
          Invite somebody
        </h2>
        <InviteForm
          busy={invite.isPending}
          onInvite={async (asked) => {
            const link = await invite.mutateAsync(asked);
            setTold({ ...link, about: `${asked.email} joins with it` });
          }}
        />
        {failed && <Problem className="mt-2">{failed}</Problem>}
        {told && (
          <OnceTold label="Link that works once" text={`${window.location.origin}/join/${told.token}`}>
            {told.about}. It works once, until {here(told.expiresAt)}, and is shown only now: send it to them yourself.
          </OnceTold>
        )}
        <Open invitations={view.invitations} onWithdraw={(id) => withdraw.mutate(id)} />
      </section>
      <Section id="people" title="People">
        {/* Not in a scroller: menus open over the rows below. */}
        <Table aria-label="People" className="max-sm:[&_td]:px-1 max-sm:[&_th]:px-1">
          <thead>
            <tr>
              <th>Who</th>
              <th>Role</th>
              <th className="max-sm:hidden">Sites</th>
              <th className="max-sm:hidden">Second step</th>
              <th className="max-sm:hidden">Last here</th>
              <th>
                <span className="sr-only">What to do</span>
              </th>
            </tr>
          </thead>
          <tbody>
            {present.map((p) => (
              <PersonRow
                key={p.id}
                person={p}
                isMe={p.id === me}
                onAct={(asked) => void onAct(p, asked).catch(() => {})}
                onSites={() => setGiving(p)}
                onTakeOut={() => setLeaving(p)}
              />
            ))}
          </tbody>
        </Table>
        {gone.length > 0 && (
          <p className="mt-3 text-faint">
            Left: {gone.map((p) => `${p.name} (${here(p.leftAt ?? "").slice(0, -6)})`).join(", ")}. What they did stays
            theirs.
          </p>
        )}
      </Section>
      <Section id="roles" title="What each role may do">
        <RolesTable />
      </Section>
      {giving && (
        <SitesOfPerson
          person={giving}
          onClose={() => setGiving(null)}
          onKeep={(siteIds) => {
            act.mutate({ id: giving.id, action: "sites", siteIds });
            setGiving(null);
          }}
        />
      )}
      <Dialog title={`Take ${leaving?.name ?? ""} out`} open={leaving !== null} onClose={() => setLeaving(null)}>
        <p className="mb-3">
          {leaving?.name} is signed out everywhere at once and cannot sign in any more. What they did stays in every log
          under their name; their address may be invited again.
        </p>
        <Button
          rank="danger"
          onClick={() => {
            if (leaving) takeOut.mutate(leaving.id);
            setLeaving(null);
          }}
        >
          Take {leaving?.name} out
        </Button>
      </Dialog>
    </>
  );
}

/** Links that can still be used. */
function Open({ invitations, onWithdraw }: { invitations: Invitation[]; onWithdraw: (id: string) => void }) {
  const { here } = useConventions();
  if (invitations.length === 0) return null;
  return (
    <Scroller className="mt-3">
      <Table aria-label="Invitations that can still be used" className="w-auto">
        <tbody>
          {invitations.map((i) => (
            <tr key={i.id}>
              <td>{i.email}</td>
              <td>{i.role ?? "another password"}</td>
              <td className="text-faint">
                by {i.madeBy}, until {here(i.expiresAt)}
              </td>
              <td>
                <Button rank="quiet" onClick={() => onWithdraw(i.id)} aria-label={`Withdraw ${i.email}'s link`}>
                  Withdraw
                </Button>
              </td>
            </tr>
          ))}
        </tbody>
      </Table>
    </Scroller>
  );
}
