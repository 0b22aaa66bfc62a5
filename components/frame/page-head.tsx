import { ButtonLink } from "@/components/kit/button";
import { ThemeSwitch } from "./theme-switch";

/** The head of a page that belongs to the organisation, not to a site. */
export function PageHead({ title }: { title: string }) {
  return (
    <div className="flex flex-wrap items-baseline gap-x-5 gap-y-2 mb-3">
      <ButtonLink rank="quiet" href="/">
        Rounds
      </ButtonLink>
      <h1 className="text-xl">{title}</h1>
      <span className="grow" />
      <ThemeSwitch />
    </div>
  );
}
