import { SensorsScreen } from "@/components/screens/sensors/sensors-screen";

export default function Page() {
  return <SensorsScreen />;
}
