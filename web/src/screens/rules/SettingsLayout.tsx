import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link, NavLink, Outlet, useLocation } from "react-router";
import { rulesOptions } from "../../api/queries";
import { Input } from "../../ui/controls";
import { useMay } from "../../ui/frame";
import { Heading } from "../../ui/Heading";
import { Icon } from "../../ui/icons";
import { findSetting, partNames, parts } from "./parts";

type Place = { to: string; name: string; about: string };

/** The places of the settings: the shop's rules part by part, and what else the shop sets up. */
function usePlaces(): [title: string, places: Place[]][] {
  const staff = useMay("listStaff");
  return [
    ["How the shop works", partNames.map((n) => ({ to: `/settings/${n}`, ...parts[n] }))],
    [
      "People and devices",
      [
        ...(staff
          ? [
              { to: "/settings/people", name: "People", about: "Who works here, their roles and PINs" },
              {
                to: "/settings/devices",
                name: "Devices",
                about: "Where somebody is signed in, and signing out from afar",
              },
            ]
          : []),
        {
          to: "/settings/permissions",
          name: "Who may do what",
          about: "What each role may, and what needs a signature",
        },
        { to: "/settings/stand", name: "Apprentices at the stand", about: "Step by step, or in blocks" },
      ],
    ],
    [
      "Tools and records",
      [
        { to: "/settings/tools", name: "Measuring tools", about: "What the shop measures with, and their zero" },
        { to: "/settings/tables", name: "Import and export", about: "Tables, bike passports" },
        { to: "/settings/history", name: "Changes", about: "Who changed which setting when, and what it was before" },
      ],
    ],
  ];
}

/** Round each place of the settings: the others at its side, or the way back to them where there is no room. */
export function SettingsLayout() {
  const groups = usePlaces();
  const index = useLocation().pathname === "/settings";
  return (
    <div className={index ? "" : "lg:grid lg:grid-cols-[210px_minmax(0,1fr)]"}>
      <nav aria-label="Settings" className={`no-print p-3 pb-0 sm:p-4 sm:pb-0 lg:pr-0 ${index ? "hidden" : ""}`}>
        <Link to="/settings" className="btn btn-ghost -ml-3 gap-1">
          <Icon name="back" size={20} /> All settings
        </Link>
        {groups.map(([title, places]) => (
          <ul key={title} className="menu w-full p-0 max-lg:hidden">
            <li className="menu-title px-1 text-quiet">{title}</li>
            {places.map((p) => (
              <li key={p.to}>
                <NavLink
                  to={p.to}
                  className={({ isActive }) =>
                    `min-h-(--target) content-center bg-none px-3 ${isActive ? "menu-active font-semibold" : ""}`
                  }
                >
                  {p.name}
                </NavLink>
              </li>
            ))}
          </ul>
        ))}
      </nav>
      <div className="min-w-0">
        <Outlet />
      </div>
    </div>
  );
}

/** All settings, and finding one of them by the words that stand beside it. */
export function SettingsIndex() {
  const groups = usePlaces();
  const [q, setQ] = useState("");
  const defaults = useQuery(rulesOptions).data?.defaults;
  const typed = q.trim();
  const has = (p: Place) =>
    typed.split(/\s+/).every((w) => `${p.name} ${p.about}`.toLowerCase().includes(w.toLowerCase()));
  const found = typed ? findSetting(typed, defaults) : [];
  const others = typed ? groups.slice(1).flatMap(([, places]) => places.filter(has)) : [];
  return (
    <div className="flex flex-col gap-4 p-3 sm:p-4">
      <Heading unseen>Settings</Heading>
      <Input
        type="search"
        className="max-w-md"
        placeholder="Find a setting: tax, inches, opening hours"
        aria-label="Find a setting"
        maxLength={60}
        value={q}
        onChange={(e) => setQ(e.target.value)}
      />
      {typed ? (
        <section className="card card-border bg-base-100" aria-label="Found">
          <p className="px-4 py-2 text-fine text-quiet" role="status">
            {found.length + others.length === 0
              ? `No setting has “${typed}” in its words.`
              : `${found.length + others.length} with “${typed}”`}
          </p>
          <ul>
            {found.map((f) => (
              <PlaceRow
                key={`${f.part} ${f.label ?? ""}`}
                to={`/settings/${f.part}${f.label ? `?at=${encodeURIComponent(f.label)}` : ""}`}
                name={f.label ?? parts[f.part].name}
                about={f.label ? parts[f.part].name : parts[f.part].about}
              />
            ))}
            {others.map((p) => (
              <PlaceRow key={p.to} {...p} />
            ))}
          </ul>
        </section>
      ) : (
        groups.map(([title, places]) => (
          <section key={title} className="card card-border bg-base-100" aria-label={title}>
            <h2 className="px-4 pt-3 pb-1 text-lg">{title}</h2>
            <ul className="sm:grid sm:grid-cols-2">
              {places.map((p) => (
                <PlaceRow key={p.to} {...p} />
              ))}
            </ul>
          </section>
        ))
      )}
    </div>
  );
}

function PlaceRow({ to, name, about }: Place) {
  return (
    <li>
      <Link to={to} className="block min-h-(--target) border-t border-base-300 px-4 py-2 hover:bg-base-200">
        <span className="block font-semibold">{name}</span>
        <span className="block text-note text-quiet">{about}</span>
      </Link>
    </li>
  );
}
