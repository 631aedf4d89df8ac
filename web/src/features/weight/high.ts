/** Pixels that the row of the balance is high. */
export const BALANCE_HIGH = 40;
