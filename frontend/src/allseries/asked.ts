/** What is asked of the table of all series. */

export interface Near {
  /** Days back. */
  lately: number;
  /** Newest periods. */
  end: number;
}

export interface Asked {
  look: string;
  find: string;
  by: string;
  descending: boolean;
}

/** What there is to look at, in words. */
export function looksIn(near: Near): [string, string][] {
  return [
    ["outside", "newest outside its limits"],
    ["shift", `level shift in the last ${near.lately} days`],
    ["silent", `no newer number for ${near.lately} days`],
    ["blank", `blank or absent in the newest ${near.end}`],
    ["worse", "projection worse than the usual step"],
    ["refused", "the ledger could not be carried out"],
    ["ask", "on the follow-up list"],
    ["nothing", "nothing found"],
  ];
}
