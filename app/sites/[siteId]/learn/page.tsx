import { LearnScreen } from "@/components/screens/learn/learn-screen";

export default function Page() {
  return <LearnScreen />;
}
