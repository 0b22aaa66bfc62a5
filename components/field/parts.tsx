"use client";
import { Camera } from "lucide-react";
import { useTranslations } from "next-intl";
import { useEffect, useId, useState } from "react";
import { Button, type Icon, type Rank } from "@/components/kit/button";
import { classes } from "@/components/kit/classes";
import { FileButton } from "@/components/kit/file-button";
import { Labelled } from "@/components/kit/fields";
import { Input, TextArea } from "@/components/kit/inputs";
import { Problem } from "@/components/kit/notice";
import { useSiteHere } from "./site-here";
import { usePhone } from "./store/phone";

/** A button for a thumb in a glove. */
export function Big({
  rank = "plain",
  icon,
  className,
  ...rest
}: { rank?: Rank; icon?: Icon; className?: string } & Omit<React.ComponentProps<typeof Button>, "rank" | "icon">) {
  return (
    <Button
      rank={rank}
      icon={icon}
      className={classes("h-auto min-h-14 justify-center whitespace-normal px-3 py-2 text-lg leading-tight", className)}
      {...rest}
    />
  );
}

/** A part of a job under its head. */
export function Part({ title, children }: { title: string; children: React.ReactNode }) {
  const id = useId();
  return (
    <section aria-labelledby={id} className="border-t border-base-300 py-3">
      <h2 id={id} className="mb-1 text-lg">
        {title}
      </h2>
      {children}
    </section>
  );
}

/** A few words at the step where the work can hurt somebody. */
export function Careful({ children }: { children: React.ReactNode }) {
  return <p className="my-2 border-l-4 border-warning pl-2 text-caution">{children}</p>;
}

type Typed = { label: string; value: string; most: number; onChange: (value: string) => void; hint?: string };

/** Words, kept with every letter. */
export function Words({ label, value, most, onChange, hint, lines = 2 }: Typed & { lines?: number }) {
  const id = useId();
  return (
    <Labelled id={id} label={label} hint={hint} className="my-2">
      {lines > 1 ? (
        <TextArea
          id={id}
          rows={lines}
          maxLength={most}
          value={value}
          className="text-lg"
          onChange={(e) => onChange(e.target.value)}
        />
      ) : (
        <Input
          id={id}
          maxLength={most}
          value={value}
          className="h-12 text-lg"
          onChange={(e) => onChange(e.target.value)}
        />
      )}
    </Labelled>
  );
}

/** One of a few, each a button. */
export function Choices<T extends string>({
  label,
  options,
  at,
  onChoose,
  columns = 2,
}: {
  label: string;
  options: readonly (readonly [T, string])[];
  at: T | null;
  onChoose: (id: T) => void;
  columns?: 1 | 2 | 3;
}) {
  const GRID = { 1: "grid-cols-1", 2: "grid-cols-2", 3: "grid-cols-3" } as const;
  const id = useId();
  return (
    <div className="my-2">
      <p id={id} className="text-sm text-faint">
        {label}
      </p>
      <div role="group" aria-labelledby={id} className={classes("grid gap-2", GRID[columns])}>
        {options.map(([value, words]) => (
          <Big
            key={value}
            rank={value === at ? "main" : "plain"}
            aria-pressed={value === at}
            className="min-h-12"
            onClick={() => onChoose(value)}
          >
            {words}
          </Big>
        ))}
      </div>
    </div>
  );
}

/** Takes a photograph, scaled down and kept on the phone at once; those taken already are seen beside it. */
export function Photos({
  name,
  ids,
  onChange,
}: {
  name: string;
  ids: readonly string[];
  onChange: (ids: string[]) => void;
}) {
  const t = useTranslations("walk");
  const { siteId } = useSiteHere();
  const takePhoto = usePhone((s) => s.takePhoto);
  const [wrong, setWrong] = useState<string | null>(null);
  const take = (file: File): void => {
    setWrong(null);
    takePhoto(siteId, file).then(
      (id) => onChange([...ids, id]),
      () => setWrong(file.name),
    );
  };
  return (
    <div className="my-2 flex flex-wrap items-center gap-2">
      <FileButton
        name={name}
        accept="image/*"
        icon={Camera}
        capture="environment"
        className="h-auto min-h-14 grow justify-center text-lg"
        disabled={ids.length >= 12}
        onFile={take}
      >
        {t("photo")}
      </FileButton>
      {ids.map((id) => (
        <Thumb key={id} id={id} />
      ))}
      {wrong !== null && <Problem>{wrong}</Problem>}
    </div>
  );
}

/** A photograph that is on this phone, or at the office. */
export function Thumb({ id }: { id: string }) {
  const { siteId } = useSiteHere();
  const photoUrl = usePhone((s) => s.photoUrl);
  const [url, setUrl] = useState<string | null>(null);
  useEffect(() => {
    let here = true;
    void photoUrl(id).then((found) => here && setUrl(found ?? `/api/sites/${siteId}/files/${id}`));
    return () => {
      here = false;
    };
  }, [id, siteId, photoUrl]);
  if (!url) return null;
  const look = "size-14 border border-base-300 object-cover";
  // At the office it is not to be had without a connection.
  // biome-ignore lint/performance/noImgElement: it is on this phone, or behind the sign-in
  return <img src={url} alt="" className={look} onError={() => setUrl(null)} />;
}
