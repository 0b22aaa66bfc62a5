"use client";
import { Check, Circle, SkipForward, TriangleAlert } from "lucide-react";
import { Button } from "@/components/kit/button";
import { useTranslations } from "next-intl";
import type { WalkLooked, WalkView } from "@/contracts/walks";
import { Big } from "../../parts";
import { useSiteHere } from "../../site-here";

const ICONS = { fine: Check, problem: TriangleAlert, skipped: SkipForward };

/** Every station of the walk with what came of it; a press goes to it. */
export function WalkStations({ walk, onGo }: { walk: WalkView; onGo: (to: string | null) => void }) {
  const t = useTranslations("walk");
  const looked = new Map(walk.looked.map((l) => [l.stationId, l]));
  return (
    <div className="py-2">
      <ul aria-label={t("list")}>
        {walk.stationIds.map((id) => (
          <StationLine key={id} id={id} look={looked.get(id) ?? null} onGo={() => onGo(id)} />
        ))}
      </ul>
      <Big className="mt-3 w-full" onClick={() => onGo("end")}>
        {t("end")}
      </Big>
    </div>
  );
}

/** @param look null: nobody looked at it yet */
export function StationLine({ id, look, onGo }: { id: string; look: WalkLooked | null; onGo: () => void }) {
  const t = useTranslations("walk");
  const { file } = useSiteHere().site;
  const station = file.stations.find((s) => s.id === id);
  const words = { fine: t("fine"), problem: look?.problem ? t(look.problem) : t("problemWord"), skipped: t("skipped") };
  const Icon = look ? ICONS[look.state] : Circle;
  return (
    <li className="border-b border-base-300">
      <Button rank="bare" className="flex min-h-12 w-full items-center gap-3" onClick={onGo}>
        <Icon className={look?.state === "problem" ? "size-5 shrink-0 text-error" : "size-5 shrink-0"} aria-hidden />
        <span className="min-w-0 grow truncate text-lg">
          <b>{station?.number}</b> {station?.name ?? id}
        </span>
        <span className={look?.state === "problem" ? "text-error" : "text-faint"}>
          {look ? words[look.state] : t("notYet")}
        </span>
      </Button>
    </li>
  );
}
