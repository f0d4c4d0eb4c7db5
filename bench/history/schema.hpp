// SPDX-License-Identifier: MIT
/// \file
/// The tables of a history. Only for bench/history/ itself.
#pragma once

namespace zorilla::bench::history {

/// Says in the file what it is: "zori" and the version of its tables.
inline constexpr int application = 0x7a6f7269, version = 1;

inline constexpr const char* tables = R"(
CREATE TABLE device (id INTEGER PRIMARY KEY, name TEXT NOT NULL, number INTEGER NOT NULL,
                     rig TEXT NOT NULL, UNIQUE (name, number));
CREATE TABLE part (id INTEGER PRIMARY KEY, device INTEGER NOT NULL, name TEXT NOT NULL,
                   UNIQUE (device, name));
CREATE TABLE stretch (id INTEGER PRIMARY KEY, device INTEGER NOT NULL, whole INTEGER NOT NULL,
                      begin INTEGER NOT NULL);
CREATE INDEX stretch_of ON stretch (device, begin);
CREATE TABLE clock (stretch INTEGER NOT NULL, clock INTEGER NOT NULL, utc INTEGER NOT NULL,
                    PRIMARY KEY (stretch, clock)) WITHOUT ROWID;
CREATE TABLE sent (stretch INTEGER NOT NULL, clock INTEGER NOT NULL, rest TEXT NOT NULL,
                   PRIMARY KEY (stretch, clock)) WITHOUT ROWID;
CREATE TABLE event (id INTEGER PRIMARY KEY, device INTEGER NOT NULL, utc INTEGER NOT NULL,
                    clock INTEGER NOT NULL, who TEXT NOT NULL, what TEXT NOT NULL,
                    reason TEXT NOT NULL, good INTEGER NOT NULL);
CREATE INDEX event_of ON event (device, utc);
CREATE TABLE minute (part INTEGER NOT NULL, minute INTEGER NOT NULL, known INTEGER NOT NULL,
                     sum REAL NOT NULL, least INTEGER NOT NULL, most INTEGER NOT NULL,
                     switched INTEGER NOT NULL, PRIMARY KEY (part, minute)) WITHOUT ROWID;
)";

} // namespace zorilla::bench::history
