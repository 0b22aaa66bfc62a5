"use client";
import { Camera } from "lucide-react";
import { useId, useRef } from "react";
import { Controller, useForm } from "react-hook-form";
import { usePhotos } from "@/components/data/use-photos";
import { useWorkspace } from "@/components/draft/site-draft";
import { Button } from "@/components/kit/button";
import { DateField } from "@/components/kit/date-field";
import { ChoiceField, Labelled } from "@/components/kit/fields";
import { FileButton } from "@/components/kit/file-button";
import { Input } from "@/components/kit/inputs";
import { Problem } from "@/components/kit/notice";

export type Person = { id: string; name: string };
/** @property id of this one intention: sent again after a lost answer, it is entered once */
export type EnteredTodo = { id: string; words: string; ownerId: string | null; due: string | null; photoIds: string[] };
/** As it is typed; nobody's where `ownerId` is empty. */
type TypedTodo = { words: string; ownerId: string; due: string | undefined };

/** Something to do, as it is entered: what, who does it, by when, with photographs. What is typed stays where it is refused, and goes when it is taken. */
export function TodoForm({
  label,
  people,
  submit,
  problem = null,
  onEnter,
  onLeave,
}: {
  label: string;
  people: readonly Person[];
  submit: string;
  /** Why it was refused. */
  problem?: string | null;
  /** @returns whether it was taken */
  onEnter: (todo: EnteredTodo) => Promise<boolean>;
  onLeave?: () => void;
}) {
  const id = useId();
  const { siteId } = useWorkspace("siteId");
  const { photos, sending, wrong, take, clear } = usePhotos(siteId);
  const { control, register, handleSubmit, setError, reset, formState } = useForm<TypedTodo>({
    defaultValues: { words: "", ownerId: "", due: undefined },
  });
  const intention = useRef<string>(undefined);
  const enter = async ({ words, ownerId, due }: TypedTodo): Promise<void> => {
    if (words.trim() === "") return setError("words", { message: "Say what is to do." });
    const photoIds = photos.map((p) => p.id);
    intention.current ??= crypto.randomUUID();
    const todo = { id: intention.current, words: words.trim(), ownerId: ownerId || null, due: due ?? null, photoIds };
    if (!(await onEnter(todo))) return;
    intention.current = undefined;
    clear();
    reset();
  };
  const unsaid = formState.errors.words?.message ?? null;
  return (
    <form
      aria-label={label}
      onSubmit={handleSubmit(enter)}
      noValidate
      className="mt-2 grid gap-x-3 gap-y-2 sm:grid-cols-4 sm:items-end"
    >
      <Labelled id={id} label="What is to do" error={unsaid} className="sm:col-span-2">
        <Input id={id} maxLength={500} aria-invalid={unsaid !== null} {...register("words")} />
      </Labelled>
      <Controller
        control={control}
        name="ownerId"
        render={({ field }) => (
          <ChoiceField
            label="Who does it"
            value={field.value}
            options={[["", "nobody yet"], ...people.map((p) => [p.id, p.name] as const)]}
            onCommit={field.onChange}
          />
        )}
      />
      <Controller
        control={control}
        name="due"
        render={({ field }) => <DateField label="By" value={field.value} onCommit={field.onChange} />}
      />
      <div className="col-span-full flex flex-wrap items-center gap-2">
        <Button type="submit" rank="main" disabled={sending || formState.isSubmitting}>
          {submit}
        </Button>
        <PhotoPart photos={photos} sending={sending} take={take} />
        {onLeave && (
          <Button rank="quiet" onClick={onLeave}>
            Leave it
          </Button>
        )}
      </div>
      {(wrong ?? problem) && <Problem className="col-span-full">{wrong ?? problem}</Problem>}
    </form>
  );
}

/** Photographs of it, taken on the spot or chosen. */
export function PhotoPart({
  photos,
  sending,
  take,
}: Pick<ReturnType<typeof usePhotos>, "photos" | "sending" | "take">) {
  return (
    <>
      <FileButton
        name="A photograph"
        accept="image/*"
        capture="environment"
        rank="quiet"
        icon={Camera}
        disabled={sending}
        onFile={take}
      >
        {photos.length > 0 ? "Another photograph" : "Photograph"}
      </FileButton>
      {photos.length > 0 && <span className="text-faint">{photos.map((p) => p.name).join(", ")}</span>}
    </>
  );
}
