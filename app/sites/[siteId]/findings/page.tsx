import { FindingsScreen } from "@/components/screens/findings/findings-screen";

export default function Page() {
  return <FindingsScreen />;
}
