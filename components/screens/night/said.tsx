"use client";
import { stationName } from "@/core/site-file/station-name";
import { Droplets, MapPin, PencilLine, TestTubeDiagonal } from "lucide-react";
import { useState } from "react";
import { useWorkspace } from "@/components/draft/site-draft";
import type { useMornings } from "@/components/data/use-mornings";
import { Button } from "@/components/kit/button";
import { useConventions } from "@/components/kit/conventions";
import { Dialog } from "@/components/kit/dialog";
import { ChoiceField, NoteField } from "@/components/kit/fields";
import { Caution, Mark, Problem } from "@/components/kit/notice";
import { TimeField } from "@/components/kit/time-field";
import { EvidencePicture } from "@/components/pictures/evidence";
import type { FindingAnswerRequest, MorningsStatus, ToldFinding } from "@/contracts/mornings";
import { aloneIds, isUndecided } from "@/core/reckon/probe";
import { hoursOn } from "@/core/dates/hours-on";

type Mornings = ReturnType<typeof useMornings>;
type Asked = "visit" | "alone" | "left";
const NOTE_LETTERS = 2000;

/** One thing that nights say has changed: what, the readings in which it shows, and what is done about it. */
export function Said({
  finding: f,
  status,
  mornings,
}: {
  finding: ToldFinding;
  status: MorningsStatus;
  mornings: Mornings;
}) {
  const { draft, canEdit } = useWorkspace("draft", "canEdit");
  const [shown, setShown] = useState(f.until === null && f.answer === null);
  const nameOf = (id: string): string => stationName(draft, id);
  const what = f.kind === "sensor" ? "another reading" : "the change";
  return (
    <article aria-label={f.words.head} className="mb-6 border-b border-base-300 pb-4">
      <h3 className="text-lg">
        {f.until !== null && <span className="text-faint">Over: </span>}
        {f.until === null && !f.answer && f.certain ? <Mark tone="caution">{f.words.head}</Mark> : f.words.head}
      </h3>
      <p>
        Likely {f.words.causes}. {f.words.check}
      </p>
      {f.until === null && isUndecided(f) && <Settling finding={f} nameOf={nameOf} />}
      <Answered finding={f} />
      <div className="mt-2 flex flex-wrap gap-2">
        {canEdit && f.until === null && <Answers finding={f} status={status} mornings={mornings} />}
        <Button rank="quiet" aria-expanded={shown} onClick={() => setShown(!shown)}>
          {shown ? "Hide the readings" : `The ${f.evidence.length} readings in which it shows`}
        </Button>
      </div>
      {shown && (
        <div className="mt-3">
          <EvidencePicture evidence={f.evidence} timeZone={draft.site.timeZone} nameOf={nameOf} without={what} />
        </div>
      )}
    </article>
  );
}

/** What would tell where it is. */
function Settling({ finding: { probe }, nameOf }: { finding: ToldFinding; nameOf: (id: string) => string }) {
  const { quantity } = useConventions();
  let words = "A night in which they run apart tells which.";
  if (probe === null) words = "No running of single stations would tell which; look at each.";
  if (probe?.runs.length === 0) words = "The next night's own readings are likely to tell which.";
  if (probe && probe.runs.length > 0) {
    const names = probe.runs.map((r) => nameOf(r.stationId)).join(" and ");
    const each = probe.runs.length > 1 ? ", each by itself," : " by itself";
    words = `To tell which, ${names}${each} for ${Math.ceil(probe.seconds / 60)} min and ${quantity(probe.litres, "volume")} is enough.`;
  }
  return <p className="text-sm text-faint">The readings fit each of these nearly as well. {words}</p>;
}

const ANSWERED: Record<NonNullable<ToldFinding["answer"]>["answer"], string> = {
  visit: "somebody goes there",
  alone: "run alone to make sure",
  taken: "the new figure was taken",
  left: "left as it is",
};

function Answered({ finding: { answer: a } }: { finding: ToldFinding }) {
  const { momentAt } = useConventions();
  if (!a) return null;
  return (
    <p className="mt-1 border-l-4 border-base-300 pl-2">
      {a.byName}, {momentAt(a.at)}: {ANSWERED[a.answer]}
      {a.forName ? `, ${a.forName}` : ""}
      {a.words ? `: “${a.words}”` : ""}.{a.grown && <Mark tone="caution"> It has grown much since.</Mark>}
    </p>
  );
}

function Answers({
  finding: f,
  status,
  mornings,
}: {
  finding: ToldFinding;
  status: MorningsStatus;
  mornings: Mornings;
}) {
  const { draft } = useWorkspace("draft");
  const [asked, setAsked] = useState<Asked | null>(null);
  const ofStations = f.kind === "step" || f.kind === "drift";
  const alone = aloneIds(f).filter((id) => draft.stations.some((s) => s.id === id));
  const one = ofStations && f.certain && f.subjectIds.length === 1;
  const send = async (more: Pick<FindingAnswerRequest, "answer"> & Partial<FindingAnswerRequest>): Promise<void> => {
    if (await mornings.answer({ findingId: f.id, words: "", ...more })) setAsked(null);
  };
  const close = (): void => setAsked(null);
  const common = { send, close, mornings };
  return (
    <>
      <Button icon={MapPin} onClick={() => setAsked("visit")}>
        Somebody goes there
      </Button>
      {alone.length > 0 && (
        <Button
          icon={Droplets}
          disabled={status.notAlone !== null}
          title={status.notAlone ?? undefined}
          onClick={() => setAsked("alone")}
        >
          {alone.length > 1 ? "Run them alone tonight" : "Run it alone tonight"}
        </Button>
      )}
      {one && (
        <Button icon={TestTubeDiagonal} disabled={mornings.answering} onClick={() => void send({ answer: "taken" })}>
          Take the new figure
        </Button>
      )}
      <Button icon={PencilLine} onClick={() => setAsked("left")}>
        Leave it, with a note
      </Button>
      {alone.length > 0 && status.notAlone !== null && (
        <p className="w-full text-xs text-faint">Not to be run alone from here: {status.notAlone}</p>
      )}
      {mornings.answerProblem && <Problem className="w-full">{mornings.answerProblem}</Problem>}
      <Dialog title="Somebody goes there" open={asked === "visit"} onClose={close}>
        <Visit people={status.people} check={f.words.check} {...common} />
      </Dialog>
      <Dialog title="Run alone tonight" open={asked === "alone"} onClose={close}>
        <Alone timeZone={draft.site.timeZone} names={alone.map((id) => stationName(draft, id))} {...common} />
      </Dialog>
      <Dialog title="Leave it as it is" open={asked === "left"} onClose={close}>
        <Leave {...common} />
      </Dialog>
    </>
  );
}

type FormProps = {
  send: (more: Pick<FindingAnswerRequest, "answer"> & Partial<FindingAnswerRequest>) => Promise<void>;
  close: () => void;
  mornings: Mornings;
};

function Visit({
  people,
  check,
  send,
  close,
  mornings,
}: FormProps & { people: MorningsStatus["people"]; check: string }) {
  const [words, setWords] = useState("");
  const [who, setWho] = useState("");
  return (
    <>
      <p className="mb-3">{check}</p>
      <ChoiceField
        label="Who"
        value={who}
        options={[["", "whoever is near"], ...people.map((p) => [p.id, p.name] as const)]}
        onCommit={setWho}
      />
      <NoteField
        label="What to know, optional"
        most={NOTE_LETTERS}
        value={words}
        onCommit={setWords}
        className="mt-2"
      />
      <Buttons
        name="Note the visit"
        close={close}
        mornings={mornings}
        onSend={() => send({ answer: "visit", words, ...(who ? { forUser: who } : {}) })}
      />
    </>
  );
}

function Alone({ timeZone, names, send, close, mornings }: FormProps & { timeZone: string; names: string[] }) {
  const [from, setFrom] = useState("22:00");
  const [id] = useState(() => crypto.randomUUID());
  const many = names.length > 1;
  return (
    <>
      <Caution>
        {many ? "These valves open one after the other" : "Its valve opens"} for some minutes by itself: nobody in a
        valve box or a pump house then, and no hose in use.
      </Caution>
      <p className="mb-3">
        From that hour on the site's clock the controllers learn {names.join(" and ")},{" "}
        {many ? "each by itself" : "by itself"}, beside no other; programs wait meanwhile. The figures are then on Learn
        as proposals.
      </p>
      <TimeField label="From" required value={from} onCommit={(v) => v && setFrom(v)} />
      <Buttons
        name="Have it run"
        close={close}
        mornings={mornings}
        onSend={() => send({ answer: "alone", orderId: id, ...hoursOn(timeZone, { from }, Date.now()) })}
      />
    </>
  );
}

function Leave({ send, close, mornings }: FormProps) {
  const [words, setWords] = useState("");
  const [missing, setMissing] = useState(false);
  return (
    <>
      <p className="mb-3">It is asked about again if it grows by half.</p>
      <NoteField label="Why" most={NOTE_LETTERS} value={words} onCommit={setWords} />
      {missing && words.trim() === "" && (
        <Problem>Say why, for whoever looks at it next; a few words are enough.</Problem>
      )}
      <Buttons
        name="Leave it"
        close={close}
        mornings={mornings}
        onSend={async () => {
          setMissing(true);
          if (words.trim() !== "") await send({ answer: "left", words });
        }}
      />
    </>
  );
}

function Buttons({
  name,
  close,
  mornings,
  onSend,
}: {
  name: string;
  close: () => void;
  mornings: Mornings;
  onSend: () => Promise<void>;
}) {
  return (
    <>
      {mornings.answerProblem && <Problem className="mt-3">{mornings.answerProblem}</Problem>}
      <div className="mt-4 flex gap-2">
        <Button rank="main" disabled={mornings.answering} onClick={() => void onSend()}>
          {name}
        </Button>
        <Button onClick={close}>Back</Button>
      </div>
    </>
  );
}
