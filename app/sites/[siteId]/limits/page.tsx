import { LimitsScreen } from "@/components/screens/limits/limits-screen";

export default function Page() {
  return <LimitsScreen />;
}
