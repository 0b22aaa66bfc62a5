import { NightScreen } from "@/components/screens/night/night-screen";

export default function Page() {
  return <NightScreen />;
}
