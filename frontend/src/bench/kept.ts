import type { QueryClient } from "@tanstack/react-query";
import type { Bench } from "../api/client";

/** What the server answered an edit becomes what is kept. An older answer that is still on its way is dropped first:
 * it would come to stand over the newer one. */
export async function keepBench(client: QueryClient, studyId: number, bench: Bench): Promise<void> {
  const queryKey = ["bench", studyId];
  await client.cancelQueries({ queryKey });
  client.setQueryData(queryKey, bench);
}
