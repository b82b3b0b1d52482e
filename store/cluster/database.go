package cluster

import (
	"context"
	"database/sql"
	"errors"
	"net/url"

	"github.com/jackc/pgx/v5"
)

// Database is a database of a cluster: the addresses of the role that serves and of the
// role that owns it.
type Database struct{ URL, OwnerURL string }

// Create makes another database, as a copy of the one named by template, or empty where
// that is "". Nobody may be connected to the template meanwhile.
func (c *Cluster) Create(ctx context.Context, name, template string) (d Database, err error) {
	admin, err := sql.Open("pgx", named(c.AdminURL, "postgres"))
	if err != nil {
		return d, err
	}
	defer func() { err = errors.Join(err, admin.Close()) }()
	statement := "create database " + pgx.Identifier{name}.Sanitize() + " owner " + owner //nolint:gosec // a quoted name, and one of ours
	if template != "" {
		statement += " template " + pgx.Identifier{template}.Sanitize()
	}
	_, err = admin.ExecContext(ctx, statement)
	return Database{named(c.URL, name), named(c.OwnerURL, name)}, err
}

// named is an address with another database.
func named(address, database string) string {
	u, err := url.Parse(address)
	if err != nil { // it is one of ours
		panic(err)
	}
	u.Path = "/" + database
	return u.String()
}
