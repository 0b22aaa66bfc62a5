"use client";
import { Camera } from "lucide-react";
import { useId } from "react";
import { type Control, Controller, type UseFormRegister } from "react-hook-form";
import type { usePhotos } from "@/components/data/use-photos";
import { DateField } from "@/components/kit/date-field";
import { ChoiceField, Labelled } from "@/components/kit/fields";
import { FileButton } from "@/components/kit/file-button";
import { Input } from "@/components/kit/inputs";

export type Person = { id: string; name: string };
/** What is to do, as it is typed; nobody's where `ownerId` is empty. */
export type TypedTodo = { words: string; ownerId: string; due: string | undefined };

/** What is to do, who does it and by when. */
export function TodoFields({
  control,
  register,
  people,
  wrong,
}: {
  control: Control<TypedTodo>;
  register: UseFormRegister<TypedTodo>;
  people: readonly Person[];
  wrong: string | null;
}) {
  const id = useId();
  return (
    <>
      <Labelled id={id} label="What is to do" error={wrong} className="sm:col-span-2">
        <Input id={id} maxLength={500} aria-invalid={wrong !== null} {...register("words")} />
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
    </>
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
