"use client";
import { ChevronLeft, CircleUserRound } from "lucide-react";
import { useTranslations } from "next-intl";
import { useState } from "react";
import { Button, IconButton } from "@/components/kit/button";
import { classes } from "@/components/kit/classes";
import { Menu } from "@/components/kit/menu";
import { useTheme } from "@/components/frame/use-theme";
import { LANGUAGE_WORDS, language } from "@/contracts/people";
import { LeaveDialog } from "./leave-dialog";
import { usePhone } from "./store/phone";
import { usePlace } from "./use-place";

/** One row that is always there: where one is, what waits, and the person. Below it, when there is no connection, one line. */
export function FieldHead({ title, home }: { title: string; home?: boolean }) {
  const t = useTranslations("frame");
  const { go } = usePlace();
  const online = usePhone((s) => s.online);
  const door = usePhone((s) => s.door);
  return (
    <header className="sticky top-0 z-30 border-b border-base-300 bg-base-100">
      <div className="flex h-14 items-center gap-1 pl-1 pr-2">
        {home ? (
          <span className="pl-3" />
        ) : (
          <IconButton
            label={t("backToSites")}
            icon={ChevronLeft}
            className="size-12"
            onClick={() => go({ siteId: null })}
          />
        )}
        <h1 className="min-w-0 grow truncate text-xl font-semibold">{title}</h1>
        <WaitingChip />
        <PersonMenu />
      </div>
      {!online && (
        <p role="status" className="bg-base-200 px-4 py-1 text-sm">
          {t("offline")}
        </p>
      )}
      {door === "expired" && (
        <p role="alert" className="bg-base-200 px-4 py-1 text-sm">
          {t("expired")}{" "}
          <a className="link font-semibold" href="/sign-in?to=/field">
            {t("signIn")}
          </a>
        </p>
      )}
    </header>
  );
}

/** How much waits, and whether something of it needs an answer: always in view. */
function WaitingChip() {
  const t = useTranslations("frame");
  const waiting = usePhone((s) => s.waiting);
  const { go } = usePlace();
  const asks = waiting.filter((e) => e.state === "met" || e.state === "refused").length;
  const count = waiting.filter((e) => e.state === "waiting").length;
  const b = (chunks: React.ReactNode): React.ReactNode => <b>{chunks}</b>;
  return (
    <Button
      className={classes("h-auto min-h-11 px-2 text-sm font-normal", asks > 0 && "text-error")}
      onClick={() => go({ waiting: true })}
    >
      <span>{asks > 0 ? t.rich("mustSee", { count: asks, b }) : t.rich("waiting", { count, b })}</span>
    </Button>
  );
}

function PersonMenu() {
  const t = useTranslations("frame");
  const { theme, turn } = useTheme();
  const person = usePhone((s) => s.person);
  const chosen = usePhone((s) => s.language);
  const speak = usePhone((s) => s.speak);
  // Somebody may come from the office's pages to sign out.
  const [leaving, setLeaving] = useState(() => new URLSearchParams(window.location.search).has("leave"));
  return (
    <>
      <Menu label={<CircleUserRound className="size-6" aria-hidden />} name={t("you")} className="h-11" end>
        {(close) => (
          <>
            <p className="px-2 py-1 text-sm text-faint">{person?.name}</p>
            <div role="group" aria-label={t("language")} className="join px-2 pb-2">
              {language.options.map((l) => (
                <Button
                  key={l}
                  rank={l === chosen ? "main" : "plain"}
                  className="join-item min-h-11"
                  aria-pressed={l === chosen}
                  lang={l}
                  onClick={() => speak(l)}
                >
                  {LANGUAGE_WORDS[l]}
                </Button>
              ))}
            </div>
            <Button rank="quiet" className="min-h-11 justify-start" onClick={turn}>
              {theme === "day" ? t("night") : t("day")}
            </Button>
            <a href="/" className="btn btn-ghost btn-quiet min-h-11 justify-start">
              {t("office")}
            </a>
            <Button
              rank="quiet"
              className="min-h-11 justify-start"
              onClick={() => {
                close();
                setLeaving(true);
              }}
            >
              {t("signOut")}
            </Button>
          </>
        )}
      </Menu>
      <LeaveDialog open={leaving} onClose={() => setLeaving(false)} />
    </>
  );
}
