"use client";
import { Button, ButtonLink } from "@/components/kit/button";
import { HiddenFileInput, Input, Select } from "@/components/kit/inputs";
import Link from "next/link";
import { useState } from "react";
import { TickField } from "@/components/kit/fields";
import { showQuantity, type UnitSystem } from "@/core/units/units";
import { ACTION_WORDS, type Alarm, type AlarmEntry, KIND_WORDS, type Person } from "../../data/alarm-types";

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
};

/** One alarm: what was read, what was done about it by whom, and what can be done now. Nothing of it is ever deleted. */
export function AlarmCard({ alarm, entries, people, canEdit, units, name, when, act, withSite }: Props) {
  const [cause, setCause] = useState(alarm.cause ?? "");
  const [note, setNote] = useState("");
  const [repaired, setRepaired] = useState(true);
  const [problem, setProblem] = useState<string | null>(null);
  const cleared = alarm.state === "cleared";
  const relearn = alarm.kind === "stationHigh" || alarm.kind === "stationLow";
  const send = async (file: File): Promise<void> => {
    setProblem(null);
    try {
      const { type, data } = await smaller(file);
      if (await act(alarm, { action: "photo", type, data, words: note.trim() })) setNote("");
    } catch {
      setProblem(`${file.name} could not be read as a picture.`);
    }
  };
  return (
    <article
      className="py-3 border-b border-base-300"
      aria-label={`Alarm ${KIND_WORDS[alarm.kind]} ${name(alarm.subject_id)}`}
    >
      <div className="flex flex-wrap items-baseline gap-x-3">
        <span className={cleared ? "text-faint" : "text-error font-semibold text-lg"}>
          {cleared ? "cleared" : alarm.state === "acknowledged" ? "acknowledged" : "open"}
        </span>
        <strong>{KIND_WORDS[alarm.kind]}</strong>
        {!withSite && <span>{name(alarm.subject_id)}</span>}
        {withSite && <Link href={`/sites/${alarm.site_id}/log`}>{alarm.site_name}</Link>}
        <span className="text-faint">{when(alarm.at)}</span>
        {alarm.assigned_to_name && <span>for {alarm.assigned_to_name}</span>}
      </div>
      <p>{alarm.message}</p>
      <p className="text-sm text-faint">
        Read {showQuantity(alarm.measured_lpm, "flow", units, 1)}, expected{" "}
        {showQuantity(alarm.expected_lpm, "flow", units, 1)}
        {alarm.locked.length > 0 && !withSite
          ? `; ${cleared ? "had locked" : "locks"} out ${alarm.locked.map(name).join(", ")}`
          : ""}
        .
        {alarm.night_lost_l !== null &&
          ` That night lost ${showQuantity(alarm.night_lost_l, "volume", units)} and left ${Math.round(alarm.night_unwatered_min ?? 0)} min unwatered.`}
        {alarm.acknowledged_by_name &&
          ` Acknowledged by ${alarm.acknowledged_by_name}${alarm.acknowledged_at ? `, ${when(alarm.acknowledged_at)}` : ""}.`}
        {alarm.cleared_by_name &&
          ` Cleared by ${alarm.cleared_by_name}${alarm.cleared_at ? `, ${when(alarm.cleared_at)}` : ""}: ${alarm.cause}.`}
      </p>
      {entries.length > 0 && (
        <details open={!cleared}>
          <summary className="cursor-pointer text-sm">What was done, {entries.length}</summary>
          <ol className="text-sm pl-4 border-l-2 border-base-300">
            {entries.map((e) => (
              <li key={e.id}>
                {when(e.at)} {e.made_by_name}: {ACTION_WORDS[e.action] ?? e.action} {e.words}
                {/* biome-ignore lint/performance/noImgElement: a picture of the organisation's own, not to be optimised elsewhere */}
                {e.has_photo && (
                  <a href={`/api/alarms/photos/${e.id}`} target="_blank" rel="noreferrer">
                    <img
                      src={`/api/alarms/photos/${e.id}`}
                      alt={`Taken by ${e.made_by_name}${e.words ? `: ${e.words}` : ""}`}
                      className="max-h-40 my-1"
                    />
                  </a>
                )}
              </li>
            ))}
          </ol>
        </details>
      )}
      {cleared && relearn && (
        <ButtonLink rank="quiet" href={`/sites/${alarm.site_id}/learn`}>
          Repaired? Learn it again
        </ButtonLink>
      )}
      {canEdit && (
        <details open={!cleared} className="mt-1">
          <summary className={cleared ? "cursor-pointer text-sm" : "sr-only"}>
            {cleared ? "Note, picture, open again" : "What to do"}
          </summary>
          {!cleared && (
            <form
              className="flex flex-wrap items-end gap-2"
              onSubmit={(e) => {
                e.preventDefault();
                void act(alarm, { action: "clear", cause, ...(relearn && repaired ? { repaired } : {}) });
              }}
            >
              {alarm.state === "open" && (
                <Button onClick={() => act(alarm, { action: "acknowledge" })}>Acknowledge</Button>
              )}
              <label className="w-44">
                <span className="block text-sm text-faint">For</span>
                <Select
                  value={alarm.assigned_to ?? ""}
                  onChange={(e) => void act(alarm, { action: "assign", to: e.target.value || null })}
                >
                  <option value="">nobody yet</option>
                  {people.map((p) => (
                    <option key={p.id} value={p.id}>
                      {p.name}
                    </option>
                  ))}
                </Select>
              </label>
              <label className="grow min-w-48">
                <span className="block text-sm text-faint">Cause, as found</span>
                <Input value={cause} maxLength={1000} onChange={(e) => setCause(e.target.value)} />
              </label>
              <Button
                disabled={cause.trim().length < 3 || cause === (alarm.cause ?? "")}
                onClick={() => act(alarm, { action: "cause", cause })}
              >
                Note the cause
              </Button>
              {relearn && (
                <TickField label="repaired: learn its flow again" checked={repaired} onCommit={setRepaired} />
              )}
              <Button rank="main" type="submit" disabled={cause.trim().length < 3}>
                Clear{alarm.locked.length > 0 ? " and unlock" : ""}
              </Button>
            </form>
          )}
          <form
            className="flex flex-wrap items-end gap-2 mt-1"
            onSubmit={(e) => {
              e.preventDefault();
              void act(alarm, cleared ? { action: "reopen", words: note } : { action: "note", words: note }).then(
                (ok) => {
                  if (ok) setNote("");
                },
              );
            }}
          >
            <label className="grow min-w-48">
              <span className="block text-sm text-faint">{cleared ? "Why it is opened again, or a note" : "Note"}</span>
              <Input value={note} maxLength={4000} onChange={(e) => setNote(e.target.value)} />
            </label>
            {cleared && (
              <Button
                disabled={note.trim() === ""}
                onClick={() =>
                  void act(alarm, { action: "note", words: note }).then((ok) => {
                    if (ok) setNote("");
                  })
                }
              >
                Add the note
              </Button>
            )}
            <Button type="submit" disabled={note.trim() === ""}>
              {cleared ? `Open again${alarm.locked.length > 0 ? " and lock" : ""}` : "Add the note"}
            </Button>
            <label className="cursor-pointer">
              Picture
              <HiddenFileInput
                accept="image/jpeg,image/png,image/webp"
                capture="environment"
                onChange={(e) => {
                  const f = e.target.files?.[0];
                  e.target.value = "";
                  if (f) void send(f);
                }}
              />
            </label>
          </form>
          {problem && (
            <p role="alert" className="text-error">
              {problem}
            </p>
          )}
        </details>
      )}
    </article>
  );
}

const LARGEST_PX = 1600;

/** A picture no larger than it need be, as base64: a phone's own is several megabytes. */
async function smaller(file: File): Promise<{ type: "image/jpeg"; data: string }> {
  const image = await createImageBitmap(file);
  const scale = Math.min(1, LARGEST_PX / Math.max(image.width, image.height));
  const canvas = document.createElement("canvas");
  [canvas.width, canvas.height] = [Math.round(image.width * scale), Math.round(image.height * scale)];
  canvas.getContext("2d")?.drawImage(image, 0, 0, canvas.width, canvas.height);
  return { type: "image/jpeg", data: canvas.toDataURL("image/jpeg", 0.82).split(",")[1] as string };
}
