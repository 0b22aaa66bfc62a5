import { WaterworksScreen } from "@/components/screens/waterworks/waterworks-screen";

export default function Page() {
  return <WaterworksScreen />;
}
