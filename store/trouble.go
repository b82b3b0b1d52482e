package store

import (
	"context"
	"errors"
	"net"
	"strings"

	"github.com/jackc/pgx/v5/pgconn"
)

// Trouble is why the database did not do what it was asked.
type Trouble string

// The kinds of trouble. Unknown is an error of any other kind, such as a defect of ours.
const (
	Away     Trouble = "away"      // no server answers, or it has just stopped
	Busy     Trouble = "busy"      // every connection is in use, or a lock is held too long
	Slow     Trouble = "slow"      // the time for the request ran out
	Full     Trouble = "full"      // no space is left on the disk
	ReadOnly Trouble = "read-only" // the database takes no writes
	Called   Trouble = "called"    // the client has gone
	Unknown  Trouble = "unknown"
)

// troubles names the SQLSTATE codes or classes that stand for a kind (P: PostgreSQL
// manual, appendix A).
var troubles = []struct {
	prefix string
	is     Trouble
}{
	{"53100", Full}, {"58030", Full}, // disk full, input or output error
	{"53", Busy},                     // insufficient resources: memory, connections
	{"55P03", Busy}, {"40P01", Busy}, // lock not available, deadlock
	{"25006", ReadOnly},
	{"57014", Slow}, // statement cancelled: our deadline passed
	{"57P", Away},   // shutdown, crash, cannot connect now
	{"08", Away},    // connection exception
}

// TroubleOf returns why the database refused a request, from the error of a
// method of this store.
func (s *Store) TroubleOf(err error) Trouble {
	if pg, ok := errors.AsType[*pgconn.PgError](err); ok {
		for _, t := range troubles {
			if strings.HasPrefix(pg.Code, t.prefix) {
				return t.is
			}
		}
		return Unknown
	}
	switch {
	case errors.Is(err, context.Canceled):
		return Called
	case errors.Is(err, context.DeadlineExceeded):
		if stats := s.sql.Stats(); stats.InUse >= stats.MaxOpenConnections {
			return Busy
		}
		return Slow
	}
	if _, ok := errors.AsType[*pgconn.ConnectError](err); ok {
		return Away
	}
	if _, ok := errors.AsType[net.Error](err); ok || isClosed(err) {
		return Away
	}
	return Unknown
}

// isClosed reports whether a connection broke off, which the driver reports in words.
func isClosed(err error) bool {
	for _, words := range []string{"unexpected EOF", "conn closed", "bad connection", "connection reset", "broken pipe"} {
		if strings.Contains(err.Error(), words) {
			return true
		}
	}
	return false
}
