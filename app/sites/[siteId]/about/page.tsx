import { AboutScreen } from "@/components/screens/about/about-screen";

export default function Page() {
  return <AboutScreen />;
}
