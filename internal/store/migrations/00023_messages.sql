-- +goose Up
-- What people are told by post: one row for one address, as it is sent and as it was. about
-- says what it tells of and to whom, so that nobody is told of one thing twice.
create table messages (
  id          uuid        primary key,
  n           bigint      generated always as identity,
  class_id    uuid        references classes on delete cascade, -- none: the school's
  handout_id  uuid        references handouts on delete set null,
  row_id      uuid        references rows on delete set null,
  account     text        not null, -- whom it is for; empty: an address of no account
  kind        text        not null check (kind in ('given', 'changed', 'written', 'digest', 'trial', 'code')),
  about       text        not null unique,
  sent_by     text        not null, -- account
  reply_to    text        not null, -- address
  from_name   text        not null,
  to_name     text        not null,
  to_address  text        not null,
  outside     boolean     not null, -- an address that a column of the list has, and not the student's own
  subject     text        not null,
  body        text        not null,
  state       text        not null check (state in ('waiting', 'gathering', 'gathered', 'sent', 'failed')),
  reason      text        not null default '', -- what was answered last
  sent_in     uuid        references messages on delete set null, -- the digest it is in
  tries       integer     not null default 0,
  not_before  timestamptz not null,
  lease_until timestamptz,
  worker      text,
  made_at     timestamptz not null,
  ended_at    timestamptz
);
create index on messages (class_id, n);
create index messages_waiting on messages (not_before, n) where state = 'waiting';
create index messages_gathering on messages (account) where state = 'gathering';
create index messages_failed on messages (class_id) where state = 'failed';
create index on messages (sent_in) where sent_in is not null;
create index on messages (handout_id);
create index on messages (row_id);

-- How fast messages may go, whatever program sends them: when the next may.
create table pace (
  id      integer     primary key default 1 check (id = 1),
  free_at timestamptz not null
);
insert into pace (free_at) values (to_timestamp(0));

-- How somebody wants to be told: each by itself, together at a time of day, or not.
create table wishes (
  account    text        primary key,
  wish       text        not null check (wish in ('', 'digest', 'off')),
  at         text        not null, -- "15:30", of the digest
  changed_at timestamptz not null
);
