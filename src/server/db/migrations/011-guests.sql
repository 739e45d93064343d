-- A guest's login has the beginnings of topics it may use.
alter table logins add column topics text[] not null default '{}';
