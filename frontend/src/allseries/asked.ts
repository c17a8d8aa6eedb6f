/** What is asked of the table of all series. */

export interface Near {
  /** Days back. */
  lately: number;
  /** Newest periods. */
  end: number;
}

/** A filter: of numbers, or of dates as ISO texts, from the least to the most; of texts what they contain. */
export interface Where {
  column: string;
  least?: number | string;
  most?: number | string;
  contains?: string;
}

export interface Asked {
  /** The series themselves, or their sums. */
  of: "series" | "sums";
  look: string;
  find: string;
  by: string;
  descending: boolean;
  where: Where[];
}

/** As a request has it. */
export function queryOf({ where, ...asked }: Asked, near: Near) {
  return { ...asked, ...near, where: JSON.stringify(where) };
}
