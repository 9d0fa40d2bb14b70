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
