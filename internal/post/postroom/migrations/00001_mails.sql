-- +goose Up
create schema postroom;
-- One mail for one mailbox. What comes twice under one Message-ID is kept once, as
-- mailboxes commonly do; how often it came is counted.
create table postroom.mails (
  n          bigint generated always as identity primary key,
  message_id text        not null,
  mailbox    text        not null,
  at         timestamptz not null,
  subject    text        not null,
  sender     text        not null,
  content    bytea       not null,
  came       integer     not null default 1,
  unique (message_id, mailbox)
);
create index on postroom.mails (mailbox);
