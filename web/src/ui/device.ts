// What this device is called in the ledger. It makes up a name once; a person can change it.

const key = "pony.device";

export function deviceName(): string {
  try {
    const kept = localStorage.getItem(key);
    if (kept) return kept;
    const made = `device ${Math.floor(1000 + 9000 * Math.random())}`;
    localStorage.setItem(key, made);
    return made;
  } catch {
    return "unnamed device";
  }
}

export function nameDevice(name: string): void {
  try {
    localStorage.setItem(key, name);
  } catch {
    // then it keeps the name it had
  }
}

const told = "pony.device.told";

/** What this device says that it is called, as it signs somebody in. */
export function tellName(): string {
  const name = deviceName();
  try {
    localStorage.setItem(told, name);
  } catch {
    // then it is taken for told
  }
  return name;
}

/** What this device is called: as the shop has it, unless it was given another name here since. */
export function nameHere(asTheShopHasIt: string): string {
  try {
    const here = localStorage.getItem(key);
    if (here && here !== localStorage.getItem(told)) return here;
  } catch {
    // as the shop has it
  }
  return asTheShopHasIt;
}
