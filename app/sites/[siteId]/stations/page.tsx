import { StationsScreen } from "@/components/screens/stations/stations-screen";

export default function Page() {
  return <StationsScreen />;
}
