-- What belongs to no single node: one document, edited like a design.
create table shop (
  only_one boolean primary key default true check (only_one),
  document jsonb not null,
  seq integer not null default 0,
  changed_at timestamptz not null default now()
);

create table shop_edits (
  seq integer primary key,
  id uuid not null unique,
  body jsonb not null,
  words text not null,
  author text not null,
  at timestamptz not null
);

-- What was around a node when its file was made.
alter table revisions add column surroundings jsonb;

-- Places go by ids now; what an earlier edit called one stands in its words.
update edits set body = (body - 'area') || '{"place": null}'::jsonb where body->>'kind' = 'identify' and body ? 'area';
