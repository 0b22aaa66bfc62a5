import { z } from "zod";
import { language, role } from "@/contracts/people";

const person = z.object({ id: z.string(), name: z.string(), role, language });
/** Who uses this phone, as it was known at the last contact. */
export type FieldPerson = z.infer<typeof person>;

const NOW = "presa-field-person";
const ALL = "presa-field-people";
const read = <T>(key: string, as: z.ZodType<T>): T | null => {
  try {
    const parsed = as.safeParse(JSON.parse(localStorage.getItem(key) ?? "null"));
    return parsed.success ? parsed.data : null;
  } catch {
    return null;
  }
};

export const personHere = (): FieldPerson | null => read(NOW, person);
const known = z.array(person.pick({ id: true, name: true }));
/** Everyone of whom something may be kept on this phone. */
export const peopleHere = (): z.infer<typeof known> => read(ALL, known) ?? [];

export function rememberPerson(now: FieldPerson): void {
  const others = peopleHere().filter((p) => p.id !== now.id);
  localStorage.setItem(ALL, JSON.stringify([...others, { id: now.id, name: now.name }]));
  localStorage.setItem(NOW, JSON.stringify(now));
}

export function forgetPerson(id: string): void {
  localStorage.setItem(ALL, JSON.stringify(peopleHere().filter((p) => p.id !== id)));
  if (personHere()?.id === id) localStorage.removeItem(NOW);
}
