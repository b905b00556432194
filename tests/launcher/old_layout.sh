#!/bin/sh
# A database as versions before 2026-12 made it: superuser 'app', no checksums, one table with rows, its password in pg.secret.
# usage: old_layout.sh FOLDER PORT
set -eu
bin=$(ls -d /usr/lib/postgresql/*/bin | sort -V | tail -1)
run=""; owner=$(id -un)
if [ "$(id -u)" = 0 ]; then run="runuser -u postgres --"; owner=postgres; fi
mkdir -p "$1"; chmod 711 "$1"
install -d -m 700 -o "$owner" "$1/pg" "$1/pg/sock"
printf old-password > "$1/pg.secret"; install -m 600 -o "$owner" "$1/pg.secret" "$1/pg/pw"
cd /
$run "$bin/initdb" -D "$1/pg/data" -U app --auth=scram-sha-256 --pwfile="$1/pg/pw" -E UTF8 --locale=C.UTF-8 > /dev/null
$run "$bin/pg_ctl" -D "$1/pg/data" -w -l "$1/pg/pg.log" -o "-p $2 -c listen_addresses=127.0.0.1 -c unix_socket_directories=$1/pg/sock" start > /dev/null
PGPASSWORD=old-password psql -Xq -h 127.0.0.1 -p "$2" -U app -d postgres -c "create database clear_lens"
PGPASSWORD=old-password psql -Xq -h 127.0.0.1 -p "$2" -U app -d clear_lens -c \
  "create table kept (n int primary key, words text); insert into kept select n, 'row ' || n from generate_series(1, 1000) n"
$run "$bin/pg_ctl" -D "$1/pg/data" -m fast -w stop > /dev/null
