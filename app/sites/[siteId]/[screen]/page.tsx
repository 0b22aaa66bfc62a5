import { notFound } from "next/navigation";
import { BenchScreen } from "@/components/screens/bench/bench-screen";
import { FindingsScreen } from "@/components/screens/findings/findings-screen";
import { LearnScreen } from "@/components/screens/learn/learn-screen";
import { LimitsScreen } from "@/components/screens/limits/limits-screen";
import { LogScreen } from "@/components/screens/log/log-screen";
import { NightScreen } from "@/components/screens/night/night-screen";
import { ProgramsScreen } from "@/components/screens/programs/programs-screen";
import { SensorsScreen } from "@/components/screens/sensors/sensors-screen";
import { StationsScreen } from "@/components/screens/stations/stations-screen";
import { WaterworksScreen } from "@/components/screens/waterworks/waterworks-screen";

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
