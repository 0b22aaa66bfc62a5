"use client";
import { useTranslations } from "next-intl";
import { useSiteHere } from "../../site-here";
import { Choices } from "../../parts";
import { useKept } from "../../use-kept";
import { FlowPart } from "./flow-part";
import { MeterPart } from "./meter-part";
import { ProofPart } from "./proof-part";

/** Meter, stopwatch and keypad: the flow of stations, and the proof of flow sensors. */
export function LearnJob() {
  const t = useTranslations("learn");
  const { siteId } = useSiteHere();
  const [view, setView] = useKept<"flow" | "prove" | "meter">(`learn ${siteId} view`, "flow");
  return (
    <div className="py-1">
      <Choices
        label={t("views")}
        at={view}
        columns={3}
        options={[
          ["flow", t("flow")],
          ["prove", t("prove")],
          ["meter", t("meter")],
        ]}
        onChoose={setView}
      />
      {view === "flow" && <FlowPart />}
      {view === "prove" && <ProofPart />}
      {view === "meter" && <MeterPart />}
    </div>
  );
}
