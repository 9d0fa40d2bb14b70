import type { ReactNode } from "react";

// The signs of the places, drawn for this product on a grid of 24.

const paths = {
  floor: <path d="M3 20h18M5 20v-7h4v7M10 20V9h4v11M15 20v-9h4v9" />,
  bikes: (
    <>
      <circle cx="6" cy="16" r="4" />
      <circle cx="18" cy="16" r="4" />
      <path d="M6 16l4-8h6l2 8M10 8l4 8" />
    </>
  ),
  bench: <path d="M2 8h20v8H2zM6 8v4M10 8v3M14 8v4M18 8v3" />,
  customers: (
    <>
      <circle cx="12" cy="8" r="3.5" />
      <path d="M5 20c0-4 3-6 7-6s7 2 7 6" />
    </>
  ),
  sizer: (
    <>
      <circle cx="7.5" cy="9.5" r="4.5" />
      <circle cx="18" cy="15" r="2.6" />
      <path d="M9 5.3l10 7.2M6 13.7l11 3.7" />
    </>
  ),
  due: <path d="M4 5h16v15H4zM4 9h16M8 3v4M16 3v4M9 15l2.2 2.2L15.500 12.500" />,
  stores: <path d="M4 4v17M20 4v17M4 10h16M4 18h16M7 10V6h4v4M14 18v-4h3v4" />,
  rules: <path d="M4 4v16h16zM8 13v3h3M4 8h2M4 12h2M4 16h2" />,
  find: (
    <>
      <circle cx="10.5" cy="10.5" r="6" />
      <path d="M15 15l6 6" />
    </>
  ),
  back: <path d="M15 5l-7 7 7 7" />,
  erase: <path d="M9 5h12v14H9l-6-7zM12 9l6 6M18 9l-6 6" />,
} satisfies Record<string, ReactNode>;

export function Icon({ name, size = 24 }: { name: keyof typeof paths; size?: number }) {
  return (
    <svg width={size} height={size} viewBox="0 0 24 24" fill="none" stroke="currentColor" strokeWidth="1.8" aria-hidden>
      {paths[name]}
    </svg>
  );
}

export function PonyHead({ size = 30 }: { size?: number }) {
  return (
    <svg width={size} height={size} viewBox="0 0 32 32" aria-hidden>
      <path d="M7 28C7 19 9 13 15 9l1-5 4 4c4 2 7 7 8 11l-4 3-5-3c-1 3 0 6 2 9z" className="fill-accent" />
      <circle cx="20.5" cy="13" r="1.3" className="fill-frame" />
    </svg>
  );
}
