package cluster

import (
	"context"
	"database/sql"
	"fmt"

	"github.com/jackc/pgx/v5"
)

// The roles of a private server. The superuser makes the others and is not used again;
// the owner migrates the schema; the serving role reads and adds.
const (
	superuser = "glenmist"
	owner     = "glenmist_owner"
	serving   = "glenmist_serve"
)

// makeRoles makes the owner and the serving role with these passwords, and gives the
// database to the owner. Data of an earlier version belonged to the superuser.
func makeRoles(ctx context.Context, admin *sql.DB, passwords map[string]string) error {
	for _, role := range []string{owner, serving} {
		var there bool
		if err := admin.QueryRowContext(ctx, `select exists (select from pg_roles where rolname = $1)`, role).Scan(&there); err != nil {
			return err
		}
		verb := "create"
		if there {
			verb = "alter"
		}
		// The password is letters and digits of our own making.
		statement := fmt.Sprintf(`%s role %s login nosuperuser nocreatedb nocreaterole password '%s'`, verb, role, passwords[role])
		if _, err := admin.ExecContext(ctx, statement); err != nil {
			return fmt.Errorf("role %s: %w", role, err)
		}
	}
	var there bool
	if err := admin.QueryRowContext(ctx, `select exists (select from pg_database where datname = $1)`, database).Scan(&there); err != nil {
		return err
	}
	if !there {
		_, err := admin.ExecContext(ctx, `create database `+database+` owner `+owner)
		return err
	}
	_, err := admin.ExecContext(ctx, `alter database `+database+` owner to `+owner)
	return err
}

// handOver gives what the superuser owns in the database to the owner, but for what belongs to extensions. db is
// connected to that database as the superuser.
func handOver(ctx context.Context, db *sql.DB) error {
	rows, err := db.QueryContext(ctx, `
		select case c.relkind when 'S' then 'sequence' else 'table' end, c.relname, ''
		from pg_class c join pg_roles r on r.oid = c.relowner
		where c.relnamespace = 'public'::regnamespace and c.relkind in ('r', 'S') and r.rolname = $1
		  and not exists (select from pg_depend d where d.objid = c.oid and d.deptype in ('i', 'a'))
		union all
		select 'function', p.proname, '()'
		from pg_proc p join pg_roles r on r.oid = p.proowner
		where p.pronamespace = 'public'::regnamespace and r.rolname = $1
		  and not exists (select from pg_depend d where d.objid = p.oid and d.deptype = 'e')`, superuser)
	if err != nil {
		return err
	}
	defer func() { _ = rows.Close() }()
	var statements []string
	for rows.Next() {
		var kind, name, arguments string
		if err := rows.Scan(&kind, &name, &arguments); err != nil {
			return err
		}
		statements = append(statements, fmt.Sprintf("alter %s %s%s owner to %s", kind, pgx.Identifier{name}.Sanitize(), arguments, owner))
	}
	if err := rows.Err(); err != nil {
		return err
	}
	for _, statement := range statements {
		if _, err := db.ExecContext(ctx, statement); err != nil {
			return fmt.Errorf("%s: %w", statement, err)
		}
	}
	return nil
}
