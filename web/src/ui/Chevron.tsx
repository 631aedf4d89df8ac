/** Says that a button opens something below it. */
export const Chevron = () => (
  <svg viewBox="0 0 8 6" width={8} style={{ marginLeft: 6 }} aria-hidden>
    <path d="M1 1 L4 5 L7 1" fill="none" stroke="currentColor" strokeWidth="1.4" />
  </svg>
);
