/** Seconds after a change of valves in which a mainline's readings are not judged; 60 where it says nothing (site-file#judging). */
export const mainHoldOffS = ({ holdOffS }: { holdOffS?: number | undefined }): number => holdOffS ?? 60;
