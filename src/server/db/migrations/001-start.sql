create table nodes (
  id uuid primary key,
  slug text not null unique,
  design jsonb not null,
  seq integer not null default 0,
  created_at timestamptz not null default now(),
  changed_at timestamptz not null default now()
);

create table edits (
  node_id uuid not null references nodes (id) on delete cascade,
  seq integer not null,
  id uuid not null unique,
  body jsonb not null,
  words text not null,
  author text not null,
  at timestamptz not null,
  primary key (node_id, seq)
);

create table revisions (
  node_id uuid not null references nodes (id) on delete cascade,
  revision integer not null,
  hash text not null,
  file text not null,
  td jsonb not null,
  slug text not null,
  state text not null default 'compiled',
  answer text,
  created_at timestamptz not null default now(),
  primary key (node_id, revision)
);

create table running (
  node_id uuid primary key references nodes (id) on delete cascade,
  revision integer not null,
  hash text not null,
  at timestamptz not null
);

create table calibrations (
  id uuid primary key,
  node_id uuid not null references nodes (id) on delete cascade,
  signal_id text not null,
  at timestamptz not null default now(),
  initials text not null,
  reference text not null,
  pairs jsonb not null,
  fit jsonb not null
);

create table acknowledgements (
  node_id uuid not null references nodes (id) on delete cascade,
  finding text not null,
  name text not null,
  at timestamptz not null default now(),
  primary key (node_id, finding)
);

create table logbook (
  id bigint generated always as identity primary key,
  node_id uuid references nodes (id) on delete cascade,
  at timestamptz not null default now(),
  who text not null,
  what text not null
);
create index logbook_by_node on logbook (node_id, at desc);

create table logins (
  name text primary key,
  role text not null,
  node_id uuid references nodes (id) on delete cascade,
  salt text not null,
  hash text not null,
  created_at timestamptz not null default now()
);

create table retained (
  topic text primary key,
  payload bytea not null,
  qos smallint not null,
  at timestamptz not null default now()
);

create table readings (
  -- Order of arrival: two readings may bear the same millisecond.
  id bigint generated always as identity,
  node_id uuid not null,
  signal_id text not null,
  at timestamptz not null,
  number double precision,
  word text
);
create index readings_by_signal on readings (node_id, signal_id, at desc, id desc);
