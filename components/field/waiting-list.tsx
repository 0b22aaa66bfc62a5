"use client";
import { useTranslations } from "next-intl";
import { useState } from "react";
import { conventions } from "@/components/kit/conventions";
import { classes } from "@/components/kit/classes";
import type { Entered, EnteredKind } from "@/contracts/entries";
import { FieldHead } from "./field-head";
import { Big } from "./parts";
import { photosOf } from "./store/entries";
import { usePhone } from "./store/phone";
import type { WaitingEntry } from "./store/phone-db";
import { usePlace } from "./use-place";

/** Everything entered that the office does not have yet, in its order; what met a newer state with both, and what can be done about it. */
export function WaitingList() {
  const t = useTranslations("waiting");
  const all = usePhone((s) => s.waiting);
  const waiting = all.filter((e) => e.state !== "sent");
  const online = usePhone((s) => s.online);
  const sending = usePhone((s) => s.sending);
  const photos = usePhone((s) => s.photos);
  const send = usePhone((s) => s.send);
  const percent = photos.of > 0 ? Math.floor((100 * photos.sent) / photos.of) : null;
  const { siteId, go } = usePlace();
  return (
    <>
      <FieldHead title={t("title")} home={siteId === null} />
      <main className="grid gap-3 p-4">
        {waiting.length === 0 && <p className="text-lg">{t("none")}</p>}
        {waiting.length > 0 && !online && <p>{t("noConnection")}</p>}
        {sending && (
          <p role="status">
            {t("sending")} {percent !== null && percent < 100 && t("sentPart", { percent })}
          </p>
        )}
        {waiting.length > 0 && online && !sending && <Big onClick={() => void send()}>{t("sendNow")}</Big>}
        <ol aria-label={t("title")}>
          {waiting.map((e) => (
            <Waiting key={e.seq} entry={e} />
          ))}
        </ol>
        <CloseButton onClose={() => go({ waiting: false })} />
      </main>
    </>
  );
}

function CloseButton({ onClose }: { onClose: () => void }) {
  const t = useTranslations("frame");
  return <Big onClick={onClose}>{t("close")}</Big>;
}

function Waiting({ entry }: { entry: WaitingEntry }) {
  const t = useTranslations("waiting");
  const site = usePhone((s) => s.sites.find((k) => k.siteId === entry.siteId)?.pack.file.site);
  const language = usePhone((s) => s.language);
  const { what, subject, state } = entry;
  const photos = photosOf(entry).length;
  const looked = what.kind === "walkLook" ? what.state : "";
  const act = what.kind === "alarm" ? what.act.action : "";
  const asks = state === "met" || state === "refused";
  return (
    <li className={classes("border-b border-base-300 py-2", asks && "border-l-4 border-l-error pl-2")}>
      <p className="text-lg font-semibold">{t(`kinds.${what.kind}`, { subject, state: looked, act })}</p>
      <p className="text-sm text-faint">
        {site?.name}, {conventions("metric", site?.timeZone, language).here(entry.at)}
        {photos > 0 && `, ${t("photo", { count: photos })}`} · {t(`state.${state}`)}
      </p>
      {said(what) !== "" && <p>“{said(what)}”</p>}
      {asks && <Answer entry={entry} />}
    </li>
  );
}

/** What somebody wrote in it. */
function said(what: Entered): string {
  if (what.kind === "alarm") {
    if ("cause" in what.act) return what.act.cause;
    return "words" in what.act ? what.act.words : "";
  }
  if (what.kind === "todoDone") return what.words;
  return "note" in what ? what.note : "";
}

/** What it met, and the ways on: nothing is thrown away but by whoever entered it. */
function Answer({ entry }: { entry: WaitingEntry }) {
  const t = useTranslations("waiting");
  const { met, problem, what, state } = entry;
  const instead = usePhone((s) => s.instead);
  const again = usePhone((s) => s.again);
  const drop = usePhone((s) => s.drop);
  const [busy, setBusy] = useState(false);
  const once = (work: () => Promise<void>) => () => {
    setBusy(true);
    void work().finally(() => setBusy(false));
  };
  const other = otherWay(entry);
  return (
    <div className="mt-1 grid gap-2">
      {met?.why === "cleared" && <p role="alert">{t("cleared", { by: met.by })}</p>}
      {met?.why === "todo" && <p role="alert">{t("todo", { words: met.words, doneBy: met.doneBy ?? "none" })}</p>}
      {met?.why === "constant" && <p role="alert">{t("constant")}</p>}
      {!met && problem && <p role="alert">{t("why", { message: problem })}</p>}
      <div className="grid grid-cols-2 gap-2">
        {other && (
          <Big rank="main" disabled={busy} onClick={once(() => instead(entry, other))}>
            {t(OTHER_WAY[what.kind] ?? "doneAll")}
          </Big>
        )}
        {state === "refused" && (
          <Big disabled={busy} onClick={once(() => again(entry))}>
            {t("sendAgain")}
          </Big>
        )}
        <Big rank="danger" disabled={busy} onClick={once(() => drop(entry))}>
          {t("drop")}
        </Big>
      </div>
    </div>
  );
}

const OTHER_WAY: Partial<Record<EnteredKind, "keepAsNote" | "proveNow" | "doneAll">> = {
  alarm: "keepAsNote",
  proof: "proveNow",
};

/** The same thing said against what stands now; null: there is no other way. */
function otherWay({ what, met }: WaitingEntry): Entered | null {
  if (met?.why === "cleared" && what.kind === "alarm") {
    const words = said(what);
    return words === "" ? null : { ...what, act: { action: "note", words } };
  }
  if (met?.why === "todo" && what.kind === "todoDone" && met.doneBy === null) return { ...what, version: met.version };
  if (met?.why === "constant" && what.kind === "proof") return { ...what, against: met.now };
  return null;
}
