// Package people knows who works in a workshop: roles and what each may do, names, passwords and PINs. It reaches no
// database and no network.
package people

import (
	"slices"
	"strings"
	"time"
	"unicode"

	"glenmist/core/evidence"
	"glenmist/core/invalid"
)

// Person is somebody who can sign in.
type Person struct {
	ID   int64
	Name string // as entries say it, 1 to 80 letters, unique without regard to case
	Role Role
	// HasPIN is true if the person can sign in on a shared device with a PIN.
	HasPIN bool
	// Gone is true if the person can no longer sign in.
	Gone bool
	Made time.Time
	Seen time.Time // of the last sign-in; zero before the first
}

// May reports whether a person may do something. Nobody (the zero Person) may do nothing.
func (p Person) May(do Right) bool { return p.Role.May(do) }

// Role is what a person is in the workshop.
type Role string

// The roles, from the fewest rights to the most.
const (
	Apprentice    Role = "apprentice"
	Technician    Role = "technician"
	Lead          Role = "lead"
	Administrator Role = "administrator"
)

// Roles lists the roles, from the fewest rights to the most.
func Roles() []Role { return []Role{Apprentice, Technician, Lead, Administrator} }

// Right is something that needs a permission.
type Right string

// The rights.
const (
	// Read shows jobs, vehicles, beliefs and settings.
	Read Right = "read"
	// Record opens jobs and adds what was observed and done: entries, captures, photos, marks.
	Record Right = "record"
	// Sign makes a verdict that stands without a countersignature.
	Sign Right = "sign"
	// Keep changes vehicles and the parts catalogue.
	Keep Right = "keep"
	// Export gives out whole jobs and tables as files.
	Export Right = "export"
	// Countersign makes a verdict of an apprentice stand.
	Countersign Right = "countersign"
	// Settle changes the workshop's settings, its own figures and what it learns.
	Settle Right = "settle"
	// Import adds jobs from files.
	Import Right = "import"
	// Delete removes jobs and what is known of people and owners.
	Delete Right = "delete"
	// Administer adds people, changes their roles, and reads the audit log.
	Administer Right = "administer"
)

// rights is the one table of who may do what: each right with the roles that have it.
var rights = []struct {
	right Right
	words string
	roles []Role
}{
	{Read, "See jobs, vehicles, figures and settings", Roles()},
	{Record, "Open jobs; record entries, captures, photos and worksheet steps", Roles()},
	{Sign, "Sign a verdict that stands alone", []Role{Technician, Lead, Administrator}},
	{Keep, "Change vehicles and the parts catalogue", []Role{Technician, Lead, Administrator}},
	{Export, "Give out jobs and tables as files", []Role{Technician, Lead, Administrator}},
	{Countersign, "Countersign the verdict of an apprentice", []Role{Lead, Administrator}},
	{Settle, "Change the workshop's settings, own figures and learning", []Role{Lead, Administrator}},
	{Import, "Import jobs from files", []Role{Administrator}},
	{Delete, "Delete jobs and personal data", []Role{Administrator}},
	{Administer, "Add people, change roles, read the audit log", []Role{Administrator}},
}

// May reports whether a role has a right.
func (r Role) May(do Right) bool {
	for _, row := range rights {
		if row.right == do {
			return slices.Contains(row.roles, r)
		}
	}
	return false
}

// Row is a line of the table of rights, for people to read.
type Row struct {
	Right Right
	Words string
	Roles []Role
}

// Has reports whether a role has the right.
func (r Row) Has(role Role) bool { return slices.Contains(r.Roles, role) }

// Table lists all rights.
func Table() (all []Row) {
	for _, r := range rights {
		all = append(all, Row{r.right, r.words, r.roles})
	}
	return all
}

// Words says a right in a few words.
func (r Right) Words() string {
	for _, row := range rights {
		if row.right == r {
			return row.words
		}
	}
	return string(r)
}

// Least returns the role with the fewest rights that has a right.
func Least(do Right) Role {
	for _, r := range Roles() {
		if r.May(do) {
			return r
		}
	}
	return Administrator
}

// CleanName returns a name without spaces around it, and with single ones within. It fails with [invalid.Error].
func CleanName(typed string) (string, error) {
	name := strings.Join(strings.Fields(typed), " ")
	n := len([]rune(name))
	if n == 0 || n > evidence.MaxName || strings.ContainsFunc(name, unicode.IsControl) {
		return "", invalid.Error{Field: "name", Expected: "a name of up to 80 letters", Got: invalid.Quote(typed)}
	}
	return name, nil
}

// ParseRole reads a role. It fails with [invalid.Error].
func ParseRole(typed string) (Role, error) {
	if r := Role(typed); slices.Contains(Roles(), r) {
		return r, nil
	}
	return "", invalid.Error{Field: "role", Expected: "apprentice, technician, lead or administrator", Got: invalid.Quote(typed)}
}
