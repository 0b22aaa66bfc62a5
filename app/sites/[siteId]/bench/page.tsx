import { BenchScreen } from "@/components/screens/bench/bench-screen";

export default function Page() {
  return <BenchScreen />;
}
