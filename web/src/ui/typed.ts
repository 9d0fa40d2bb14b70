/** Kilometres as they are typed, 5980 or 5980,5; undefined for what is none. */
export const kilometres = (text: string) =>
  /^\d{1,6}([.,]\d+)?$/.test(text.trim()) ? Number(text.trim().replace(",", ".")) : undefined;

/** What to say of what is none. */
export const notKilometres = "Type whole kilometres, such as 5980.";
