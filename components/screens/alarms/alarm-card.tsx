"use client";
import { Camera, Check, Link2, LockOpen, MessageSquarePlus, RotateCcw } from "lucide-react";
import Link from "next/link";
import { useEffect, useId, useRef, useState } from "react";
import { Button, ButtonLink } from "@/components/kit/button";
import { classes } from "@/components/kit/classes";
import { conventions } from "@/components/kit/conventions";
import { Labelled, TickField } from "@/components/kit/fields";
import { StoneIcon } from "@/components/kit/icons";
import { base64Of, smallerPicture } from "@/components/kit/smaller-picture";
import { FileButton } from "@/components/kit/file-button";
import { Checkbox, Input, Select } from "@/components/kit/inputs";
import { Problem } from "@/components/kit/notice";
import { ACTION_WORDS, KIND_WORDS } from "@/components/words/alarm-words";
import type { Alarm, AlarmEntry, Person } from "@/contracts/alarms";
import type { UnitSystem } from "@/core/units/units";

type Props = {
  alarm: Alarm;
  entries: AlarmEntry[];
  people: Person[];
  canEdit: boolean;
  units: UnitSystem;
  /** Names of the subject and of what is locked, in the site's own words. */
  name: (id: string) => string;
  when: (iso: string) => string;
  act: (alarm: Alarm, body: unknown) => Promise<boolean>;
  /** Shown where alarms of several sites stand together. */
  withSite?: boolean;
  /** Brought into sight. */
  chosen?: boolean;
  /** Ticked, to be cleared with others; not to be ticked where nothing hears it. */
  ticked?: boolean;
  onTick?: ((on: boolean) => void) | undefined;
};

const STATE_WORDS = { open: "open", acknowledged: "acknowledged", cleared: "cleared" };

/** One alarm: what was read, what was done about it by whom, and what can be done now. Nothing of it is ever deleted. */
export function AlarmCard(props: Props) {
  const { alarm, canEdit, name, when, withSite, chosen, ticked, onTick } = props;
  const cleared = alarm.state === "cleared";
  const box = useRef<HTMLElement>(null);
  useEffect(() => {
    if (chosen) box.current?.scrollIntoView({ block: "center" });
  }, [chosen]);
  return (
    <article
      ref={box}
      tabIndex={-1}
      className={classes("outline-none border-b border-base-300 py-3", chosen && "bg-base-200 px-2")}
      aria-label={`Alarm ${KIND_WORDS[alarm.kind]} ${name(alarm.subjectId)}`}
    >
      <div className="flex flex-wrap items-baseline gap-x-3">
        {onTick && (
          <Checkbox
            className="self-center"
            aria-label={`Tick this alarm of ${alarm.siteName}, to clear it with others`}
            checked={ticked}
            onChange={(e) => onTick(e.target.checked)}
          />
        )}
        <span
          className={classes(
            "inline-flex items-baseline gap-1",
            cleared ? "text-faint" : "text-lg font-semibold text-error",
          )}
        >
          {!cleared && <StoneIcon className="size-[0.9em] self-center" />} {STATE_WORDS[alarm.state]}
        </span>
        <strong>{KIND_WORDS[alarm.kind]}</strong>
        {withSite ? (
          <Link className="underline underline-offset-2" href={`/sites/${alarm.siteId}/log?view=alarms&at=${alarm.id}`}>
            {alarm.siteName}
          </Link>
        ) : (
          <span>{name(alarm.subjectId)}</span>
        )}
        <span className="text-faint">
          {alarm.rehearsed ? "rehearsed, of the night of " : ""}
          {when(alarm.at)}
        </span>
        {alarm.assignedToName && <span>for {alarm.assignedToName}</span>}
      </div>
      <p>{alarm.message}</p>
      <Facts {...props} />
      <Deeds {...props} />
      {/* Once cleared there is nothing to do here any more: the focus stays on the alarm. */}
      {canEdit && !cleared && <ToDo key={alarm.cause ?? ""} {...props} onCleared={() => box.current?.focus()} />}
      {canEdit && (cleared ? <After {...props} /> : <NoteForm {...props} />)}
    </article>
  );
}

const minutesOf = (minutes: number): string =>
  minutes < 10 ? `${minutes.toFixed(1)} min` : `${Math.round(minutes)} min`;

function Facts({ alarm, units, name, when, withSite }: Props) {
  const { quantity } = conventions(units);
  const cleared = alarm.state === "cleared";
  const parts = [
    `Read ${quantity(alarm.measuredLpm, "flow")}, expected ${quantity(alarm.expectedLpm, "flow")}`,
    alarm.locked.length > 0 && !withSite
      ? `; ${cleared ? "had locked" : "locks"} out ${alarm.locked.map(name).join(", ")}`
      : "",
    ".",
    alarm.nightLostL !== null
      ? ` That night lost ${quantity(alarm.nightLostL, "volume")} and left ${Math.round(alarm.nightUnwateredMin ?? 0)} min unwatered.`
      : "",
    alarm.departedFrom !== null && alarm.departedMin !== null && alarm.departedL !== null
      ? ` Outside its limits for ${minutesOf(alarm.departedMin)} since ${when(alarm.departedFrom)}: ${quantity(Math.abs(alarm.departedL), "volume")} ${alarm.departedL < 0 ? "less" : "more"} than expected.`
      : "",
    alarm.acknowledgedByName
      ? ` Acknowledged by ${alarm.acknowledgedByName}${alarm.acknowledgedAt ? `, ${when(alarm.acknowledgedAt)}` : ""}.`
      : "",
    alarm.clearedByName
      ? ` Cleared by ${alarm.clearedByName}${alarm.clearedAt ? `, ${when(alarm.clearedAt)}` : ""}: ${alarm.cause}.`
      : "",
  ];
  return <p className="text-faint">{parts.join("")}</p>;
}

function Deeds({ alarm, entries, when }: Props) {
  if (entries.length === 0) return null;
  return (
    <details open={alarm.state !== "cleared"}>
      <summary className="cursor-pointer">What was done, {entries.length}</summary>
      <ol className="border-l-2 border-base-300 pl-4">
        {entries.map((e) => (
          <li key={e.id}>
            {when(e.at)} {e.madeByName}: {ACTION_WORDS[e.action] ?? e.action} {e.words}
            {e.action === "photo" && !e.hasPhoto && <em className="text-faint">The photograph is no longer kept.</em>}
            {e.hasPhoto && (
              <a href={`/api/alarms/photos/${e.id}`} target="_blank" rel="noreferrer">
                {/* biome-ignore lint/performance/noImgElement: a picture of the organisation's own, not to be optimised elsewhere */}
                <img
                  src={`/api/alarms/photos/${e.id}`}
                  alt={`Taken by ${e.madeByName}${e.words ? `: ${e.words}` : ""}`}
                  className="my-1 max-h-40"
                />
              </a>
            )}
          </li>
        ))}
      </ol>
    </details>
  );
}

/** Acknowledge, give to somebody, note the cause, clear. */
function ToDo({ alarm, people, act, onCleared }: Props & { onCleared: () => void }) {
  const id = useId();
  const causeField = useRef<HTMLInputElement>(null);
  const [cause, setCause] = useState(alarm.cause ?? "");
  const [repaired, setRepaired] = useState(true);
  const relearn = alarm.kind === "stationHigh" || alarm.kind === "stationLow";
  const tooShort = cause.trim().length < 3;
  return (
    <form
      className="no-print mt-1 flex flex-wrap items-end gap-2"
      onSubmit={(e) => {
        e.preventDefault();
        void act(alarm, { action: "clear", cause, ...(relearn && repaired ? { repaired } : {}) }).then(
          (done) => done && onCleared(),
        );
      }}
    >
      {alarm.state === "open" && (
        <Button
          icon={Check}
          onClick={() => void act(alarm, { action: "acknowledge" }).then((done) => done && causeField.current?.focus())}
        >
          Acknowledge
        </Button>
      )}
      <Labelled id={`${id}-for`} label="For" className="w-44">
        <Select
          id={`${id}-for`}
          value={alarm.assignedTo ?? ""}
          onChange={(e) => void act(alarm, { action: "assign", to: e.target.value || null })}
        >
          <option value="">nobody yet</option>
          {people.map((p) => (
            <option key={p.id} value={p.id}>
              {p.name}
            </option>
          ))}
        </Select>
      </Labelled>
      <Labelled id={`${id}-cause`} label="Cause, as found" className="min-w-48 grow">
        <Input
          ref={causeField}
          id={`${id}-cause`}
          value={cause}
          maxLength={1000}
          onChange={(e) => setCause(e.target.value)}
        />
      </Labelled>
      <Button
        disabled={tooShort || cause === (alarm.cause ?? "")}
        onClick={() => act(alarm, { action: "cause", cause })}
      >
        Note the cause
      </Button>
      {relearn && <TickField label="repaired: learn its flow again" checked={repaired} onCommit={setRepaired} />}
      <Button type="submit" icon={LockOpen} disabled={tooShort}>
        Clear{alarm.locked.length > 0 ? " and unlock" : ""}
      </Button>
    </form>
  );
}

/** A note or a picture, at any time; a cleared alarm may be opened again with a reason. */
function NoteForm({ alarm, act }: Props) {
  const id = useId();
  const [note, setNote] = useState("");
  const [problem, setProblem] = useState<string | null>(null);
  const cleared = alarm.state === "cleared";
  const empty = note.trim() === "";
  const send = async (body: unknown): Promise<void> => {
    if (await act(alarm, body)) setNote("");
  };
  const sendPicture = async (file: File): Promise<void> => {
    setProblem(null);
    try {
      const data = await base64Of(await smallerPicture(file));
      await send({ action: "photo", type: "image/jpeg", data, words: note.trim() });
    } catch {
      setProblem(`${file.name} could not be read as a picture.`);
    }
  };
  return (
    <form
      className="no-print mt-1 flex flex-wrap items-end gap-2"
      onSubmit={(e) => {
        e.preventDefault();
        void send({ action: cleared ? "reopen" : "note", words: note });
      }}
    >
      <Labelled
        id={`${id}-note`}
        label={cleared ? "Why it is opened again, or a note" : "Note"}
        className="min-w-48 grow"
      >
        <Input id={`${id}-note`} value={note} maxLength={4000} onChange={(e) => setNote(e.target.value)} />
      </Labelled>
      <Button
        type={cleared ? "button" : "submit"}
        icon={MessageSquarePlus}
        disabled={empty}
        onClick={cleared ? () => void send({ action: "note", words: note }) : undefined}
      >
        Add the note
      </Button>
      {cleared && (
        <Button type="submit" icon={RotateCcw} disabled={empty}>
          Open again{alarm.locked.length > 0 ? " and lock" : ""}
        </Button>
      )}
      <FileButton
        rank="quiet"
        icon={Camera}
        name="Picture to add"
        accept="image/jpeg,image/png,image/webp"
        capture="environment"
        onFile={(file) => void sendPicture(file)}
      >
        Picture
      </FileButton>
      {problem && <Problem>{problem}</Problem>}
    </form>
  );
}

function After(props: Props) {
  const { alarm } = props;
  const relearn = alarm.kind === "stationHigh" || alarm.kind === "stationLow";
  return (
    <>
      {relearn && (
        <ButtonLink rank="quiet" icon={Link2} href={`/sites/${alarm.siteId}/learn`}>
          Repaired? Learn it again
        </ButtonLink>
      )}
      <details className="no-print mt-1">
        <summary className="cursor-pointer">Note, picture, open again</summary>
        <NoteForm {...props} />
      </details>
    </>
  );
}
