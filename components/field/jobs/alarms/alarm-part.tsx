"use client";
import { useTranslations } from "next-intl";
import { useState } from "react";
import { classes } from "@/components/kit/classes";
import { TickField } from "@/components/kit/fields";
import { Problem } from "@/components/kit/notice";
import type { Alarm } from "@/contracts/alarms";
import type { Entered } from "@/contracts/entries";
import { subjectName } from "@/core/judge/alarm-words";
import { MESSAGES } from "@/messages/messages";
import { Big, Careful, Choices, Photos, Words } from "../../parts";
import { useSiteHere } from "../../site-here";
import { useKept } from "../../use-kept";
import { known } from "../../words";

type Act = Extract<Entered, { kind: "alarm" }>["act"];
type Kind = keyof typeof MESSAGES.en.alarms.kind;
const CAUSES = Object.keys(MESSAGES.en.alarms.usual) as (keyof typeof MESSAGES.en.alarms.usual)[];

/** One alarm: what it says, what to look for, and large: acknowledged, its cause, a photograph, cleared. */
export function AlarmPart({ alarm }: { alarm: Alarm }) {
  const t = useTranslations("alarms");
  const { site, conventions, mayEnter, enter } = useSiteHere();
  const [opened, setOpened] = useState<"clear" | "note" | null>(null);
  const kind: Kind = known(MESSAGES.en.alarms.kind, alarm.kind, "other");
  const subject = subjectName(site.file, alarm.subjectId).replace(/^station /, "");
  const title = `${t(`kind.${kind}`)}: ${subject}`;
  const act = (done: Act, draft?: string): void => {
    void enter({ kind: "alarm", alarmId: alarm.id, act: done }, title, draft);
    setOpened(null);
  };
  const open = alarm.state !== "cleared";
  const names = alarm.locked.map((id) => subjectName(site.file, id).replace(/^station /, "")).join(", ");
  return (
    <article aria-label={title} className={classes("my-3 border-2 p-3", open ? "border-error" : "border-base-300")}>
      <h2 className="text-xl font-semibold">{title}</h2>
      <p className="text-faint">
        {conventions.momentAt(alarm.at)}
        {alarm.rehearsed && ` · ${t("rehearsed")}`}
        {alarm.state === "acknowledged" && ` · ${t("acknowledgedBy", { name: alarm.acknowledgedByName ?? "" })}`}
        {!open && ` · ${t("cleared")}`}
      </p>
      <Figures alarm={alarm} />
      {t(`look.${kind}`) !== "" && <Careful>{t(`look.${kind}`)}</Careful>}
      {names !== "" && open && <p className="font-semibold text-error">{t("locked", { names })}</p>}
      <Did alarm={alarm} />
      {mayEnter && open && opened === null && (
        <div className="mt-3 grid grid-cols-2 gap-2.5">
          {alarm.state === "open" && (
            <Big rank="main" className="col-span-2 min-h-20 text-xl" onClick={() => act({ action: "acknowledge" })}>
              {t("acknowledge")}
            </Big>
          )}
          <Big rank={alarm.state === "open" ? "plain" : "main"} className="min-h-16" onClick={() => setOpened("clear")}>
            {t("clearTitle")}
          </Big>
          <Big className="min-h-16" onClick={() => setOpened("note")}>
            {t("note")}
          </Big>
          <div className="col-span-2">
            <Photos
              name={t("photoName", { subject })}
              ids={[]}
              onChange={([photoId]) => photoId && act({ action: "photo", photoId, words: "" })}
            />
          </div>
        </div>
      )}
      {opened === "clear" && <ClearForm alarm={alarm} onAct={act} onLeave={() => setOpened(null)} />}
      {opened === "note" && <NoteForm alarm={alarm} onAct={act} onLeave={() => setOpened(null)} />}
    </article>
  );
}

function Figures({ alarm }: { alarm: Alarm }) {
  const t = useTranslations("alarms");
  const { conventions } = useSiteHere();
  if (alarm.kind.startsWith("pressure")) return null;
  const flow = (lpm: number): string => conventions.quantity(lpm, "flow");
  return (
    <p className="text-lg">{t("readExpected", { read: flow(alarm.measuredLpm), expected: flow(alarm.expectedLpm) })}</p>
  );
}

/** What was done about it, by whom. */
function Did({ alarm }: { alarm: Alarm }) {
  const t = useTranslations("alarms");
  const { site } = useSiteHere();
  const entries = site.entries.filter((e) => e.alarmId === alarm.id);
  if (entries.length === 0) return null;
  return (
    <ul className="mt-1 text-sm">
      {entries.map((e) => (
        <li key={e.id}>
          {e.madeByName} {t(`did.${known(MESSAGES.en.alarms.did, e.action, "note")}`)} {e.words}
        </li>
      ))}
    </ul>
  );
}

type FormProps = { alarm: Alarm; onAct: (act: Act, draft: string) => void; onLeave: () => void };

/** Its cause, by a press or in words; with that it is cleared, which frees what it locked out. */
function ClearForm({ alarm, onAct, onLeave }: FormProps) {
  const t = useTranslations("alarms");
  const draft = `alarm ${alarm.id} clear`;
  const [typed, setTyped] = useKept(draft, { cause: alarm.cause ?? "", repaired: false });
  const [short, setShort] = useState(false);
  const station = alarm.kind === "stationHigh" || alarm.kind === "stationLow";
  const clear = (): void => {
    const cause = typed.cause.trim();
    if (cause.length < 3) setShort(true);
    else onAct({ action: "clear", cause, repaired: station && typed.repaired }, draft);
  };
  return (
    <div className="mt-2">
      <Choices
        label={t("causes")}
        at={CAUSES.find((c) => t(`usual.${c}`) === typed.cause) ?? null}
        options={CAUSES.map((c) => [c, t(`usual.${c}`)] as const)}
        onChoose={(c) => setTyped({ ...typed, cause: t(`usual.${c}`) })}
      />
      <Words
        label={t("cause")}
        value={typed.cause}
        most={1000}
        onChange={(cause) => {
          setShort(false);
          setTyped({ ...typed, cause });
        }}
      />
      {short && <Problem>{t("needCause")}</Problem>}
      {station && (
        <div className="my-2 flex min-h-12 items-center text-lg">
          <TickField
            label={t("repaired")}
            checked={typed.repaired}
            onCommit={(repaired) => setTyped({ ...typed, repaired })}
          />
        </div>
      )}
      {alarm.locked.length > 0 && <p className="text-faint">{t("frees")}</p>}
      <FormButtons done={t("clear")} onDone={clear} onLeave={onLeave} />
    </div>
  );
}

function NoteForm({ alarm, onAct, onLeave }: FormProps) {
  const t = useTranslations("alarms");
  const draft = `alarm ${alarm.id} note`;
  const [words, setWords] = useKept(draft, "");
  return (
    <div className="mt-2">
      <Words label={t("note")} value={words} most={4000} onChange={setWords} />
      <FormButtons
        done={t("noteKeep")}
        disabled={words.trim() === ""}
        onDone={() => onAct({ action: "note", words: words.trim() }, draft)}
        onLeave={onLeave}
      />
    </div>
  );
}

function FormButtons({
  done,
  disabled,
  onDone,
  onLeave,
}: {
  done: string;
  disabled?: boolean;
  onDone: () => void;
  onLeave: () => void;
}) {
  const t = useTranslations("walk");
  return (
    <div className="mt-2 grid grid-cols-2 gap-2.5">
      <Big rank="main" className="min-h-16" disabled={disabled} onClick={onDone}>
        {done}
      </Big>
      <Big className="min-h-16" onClick={onLeave}>
        {t("leave")}
      </Big>
    </div>
  );
}
