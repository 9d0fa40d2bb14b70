/** An id for something made on this device, a UUIDv7: in the order of time, and nobody else's. */
export function newId(now = Date.now()): string {
  const b = crypto.getRandomValues(new Uint8Array(16));
  for (let i = 0; i < 6; i++) b[i] = Math.floor(now / 2 ** (8 * (5 - i))) % 256;
  b[6] = ((b[6] ?? 0) & 0x0f) | 0x70;
  b[8] = ((b[8] ?? 0) & 0x3f) | 0x80;
  const hex = Array.from(b, (x) => x.toString(16).padStart(2, "0")).join("");
  return [hex.slice(0, 8), hex.slice(8, 12), hex.slice(12, 16), hex.slice(16, 20), hex.slice(20)].join("-");
}

const letters = "0123456789ABCDEFGHJKMNPQRSTVWXYZ"; // none that is taken for another

/** The tag of a bike that was added without a network, until the shop gives it one. It is written on the bike, and finds it later, too. */
export const provisionalTag = (): string =>
  `NEW-${Array.from(crypto.getRandomValues(new Uint8Array(6)), (x) => letters[x % 32]).join("")}`;

export const isProvisional = (tag: string): boolean => /^NEW-[0-9A-HJKMNP-TV-Z]{6}$/.test(tag);
