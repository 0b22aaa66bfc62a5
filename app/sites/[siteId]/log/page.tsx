import { LogScreen } from "@/components/screens/log/log-screen";

export default function Page() {
  return <LogScreen />;
}
