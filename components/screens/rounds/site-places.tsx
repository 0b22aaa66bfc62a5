"use client";
import { useSettings } from "@/components/data/use-organisation";
import { useRoundsPlaces } from "@/components/data/use-rounds";
import { Problem } from "@/components/kit/notice";
import { PlacesPlot } from "@/components/pictures/places/places-plot";

/** The sites that are found, where they are. */
export function SitePlaces({ asked, onOpen }: { asked: string; onOpen: (id: string) => void }) {
  const { found, problem } = useRoundsPlaces(asked);
  const { settings } = useSettings();
  if (problem !== null) return <Problem>{problem}</Problem>;
  if (found === null) return <p role="status">Reading the sites…</p>;
  const { places, without } = found;
  const whereToEnter = "Latitude and longitude are entered at About this site.";
  if (places.length === 0)
    return (
      <p className="my-6" role="status">
        {without === 0 ? "No site matches." : `None of the ${without} sites has a position yet. ${whereToEnter}`}
      </p>
    );
  const needing = places.filter((p) => p.needs).length;
  return (
    <>
      <PlacesPlot places={places} units={settings?.units ?? "metric"} onOpen={onOpen} />
      <p className="mt-1 text-sm text-faint">
        North is up.{" "}
        {needing === 0 ? "None of them needs somebody today." : `The full ones, ${needing}, need somebody today.`}
        {without > 0 && ` ${without} ${without === 1 ? "has" : "have"} no position. ${whereToEnter}`}
      </p>
    </>
  );
}
