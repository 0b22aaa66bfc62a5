"use client";
import { useState } from "react";
import { asKept, keepFile, type NamedFile } from "./keep-file";

/** Photographs that are being added to what somebody enters: each is kept as soon as it is chosen. */
export function usePhotos(siteId: string) {
  const [photos, setPhotos] = useState<NamedFile[]>([]);
  const [sending, setSending] = useState(false);
  const [wrong, setWrong] = useState<string | null>(null);
  const take = async (file: File): Promise<void> => {
    setWrong(null);
    setSending(true);
    try {
      const { content, name } = await asKept(file);
      const kept = await keepFile(siteId, content, name);
      setPhotos((before) => [...before, kept]);
    } catch (error) {
      setWrong(error instanceof Error ? error.message : String(error));
    } finally {
      setSending(false);
    }
  };
  return { photos, sending, wrong, take, clear: () => setPhotos([]) };
}
