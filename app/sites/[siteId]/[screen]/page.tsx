import { notFound } from "next/navigation";
import { BenchScreen } from "@/components/bench/bench-screen";
import { FindingsScreen } from "@/components/frame/findings-screen";
import { LearnScreen } from "@/components/learn/learn-screen";
import { LimitsScreen } from "@/components/limits/limits-screen";
import { LogScreen } from "@/components/log/log-screen";
import { NightScreen } from "@/components/night/night-screen";
import { ProgramsScreen } from "@/components/programs/programs-screen";
import { SensorsScreen } from "@/components/sensors/sensors-screen";
import { StationsScreen } from "@/components/stations/stations-screen";
import { WaterworksScreen } from "@/components/waterworks/waterworks-screen";

const SCREENS: Record<string, React.ComponentType> = {
  waterworks: WaterworksScreen,
  sensors: SensorsScreen,
  stations: StationsScreen,
  programs: ProgramsScreen,
  learn: LearnScreen,
  night: NightScreen,
  limits: LimitsScreen,
  bench: BenchScreen,
  log: LogScreen,
  findings: FindingsScreen,
};

export default async function ScreenPage({ params }: { params: Promise<{ screen: string }> }) {
  const Screen = SCREENS[(await params).screen];
  if (!Screen) notFound();
  return <Screen />;
}
