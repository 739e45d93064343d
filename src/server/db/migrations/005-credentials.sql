-- The design a file was compiled from: a node can be taken back to it, and so can the design.
alter table revisions add column design jsonb;

-- A node's own key for sealed messages, itself sealed.
create table node_keys (
  node_id uuid primary key references nodes (id) on delete cascade,
  sealed text not null,
  -- Counts the messages sealed with it: a recorded one does nothing.
  messages bigint not null default 0
);

-- Passwords of networks, sealed. The one before is kept until every node has proven the new one.
create table credentials (
  ref text not null,
  version integer not null,
  network text not null,
  sealed text not null,
  at timestamptz not null default now(),
  primary key (ref, version)
);

-- Which version of a network's credentials a node has shown to work, and what became of the last try.
create table carried (
  node_id uuid not null references nodes (id) on delete cascade,
  ref text not null,
  version integer not null,
  tried integer not null,
  state text not null,
  reason text,
  at timestamptz not null default now(),
  primary key (node_id, ref)
);

-- A login that is being changed has two passwords until the node has shown that it uses the new one.
alter table logins add column next_salt text;
alter table logins add column next_hash text;
