// Package casefile reads and writes a whole job as an open JSON file: vehicle,
// engine, parts and ledger. Format and JSON Schema are in docs/formats.
package casefile

import (
	"errors"
	"fmt"
	"io"
	"slices"
	"strings"
	"time"

	"github.com/go-json-experiment/json"
	"github.com/go-json-experiment/json/jsontext"

	"glenmist/core/invalid"
	"glenmist/core/job"
	"glenmist/core/part"
)

// Format marks a file as a case file; Version is the newest that this program
// reads, and the one it writes.
const (
	Format  = "glenmist-case"
	Version = 8
	// oldest is the oldest version that still reads. What an older version could say,
	// a newer one says in the same words, so all are read alike.
	oldest = 1
)

// MaxBytes bounds a case file.
const MaxBytes = 2 << 20

// File is the envelope of one job.
type File struct {
	Format  string  `json:"format"`
	Version int     `json:"version"`
	Job     job.Job `json:"job"`
	// Parts is where every tagged part sits at the end of the ledger. It is
	// derived: written for people and other programs, checked when read.
	Parts []part.Placed `json:"parts,omitzero"`
}

// placed lists every part of a job in order of home, and the spares in use.
func placed(j job.Job) []part.Placed {
	return j.Ledger.Positions(j.Vehicle.Engine).All()
}

// Write writes a job, indented, with one trailing newline.
func Write(w io.Writer, j job.Job) error {
	f := File{Format: Format, Version: Version, Job: j, Parts: placed(j)}
	if err := json.MarshalWrite(w, f, jsontext.WithIndent("  "), json.Deterministic(true)); err != nil {
		return fmt.Errorf("write case file: %w", err)
	}
	_, err := io.WriteString(w, "\n")
	return err
}

// Read reads and checks a case file. Every error is an [invalid.Errors] whose
// fields are paths such as "job.ledger[3].counters.counts[1]".
func Read(r io.Reader) (job.Job, error) {
	data, err := io.ReadAll(io.LimitReader(r, MaxBytes+1))
	if err != nil {
		return job.Job{}, fmt.Errorf("read case file: %w", err)
	}
	if len(data) > MaxBytes {
		return job.Job{}, invalid.Errors{{Field: "file", Expected: "a case file of at most 2 MB", Got: "more"}}
	}
	if err := checkVersion(data); err != nil {
		return job.Job{}, err
	}
	var f File
	if err := json.Unmarshal(data, &f, json.RejectUnknownMembers(true)); err != nil {
		return job.Job{}, explain(err)
	}
	if err := f.check(); err != nil {
		return job.Job{}, err
	}
	return normal(f.Job), nil
}

// normal takes the times to UTC and whole microseconds, which is what a database
// keeps.
func normal(j job.Job) job.Job {
	keep := func(t time.Time) time.Time { return t.UTC().Truncate(time.Microsecond) }
	j.Opened = keep(j.Opened)
	for i := range j.Ledger {
		j.Ledger[i].Done = keep(j.Ledger[i].Done)
	}
	return j
}

// checkVersion looks at the envelope first, so that a newer file is refused for
// being newer and not for a field it has.
func checkVersion(data []byte) error {
	var head struct {
		Format  string `json:"format"`
		Version *int   `json:"version"`
	}
	if err := json.Unmarshal(data, &head); err != nil {
		return explain(err)
	}
	if head.Format != Format {
		return invalid.Errors{{Field: "format", Expected: fmt.Sprintf("%q", Format), Got: invalid.Quote(head.Format)}}
	}
	if head.Version == nil || *head.Version < oldest || *head.Version > Version {
		got := "none"
		if head.Version != nil {
			got = fmt.Sprint(*head.Version)
			if *head.Version > Version {
				got += ": it was written by a newer Glenmist, update this one to read it"
			}
		}
		return invalid.Errors{{Field: "version", Expected: fmt.Sprintf("%d to %d", oldest, Version), Got: got}}
	}
	return nil
}

func (f File) check() error {
	var bad invalid.Errors
	bad.Under("job", f.Job.Validate())
	if len(bad) > 0 || f.Parts == nil {
		return bad.Err()
	}
	want := placed(f.Job)
	if len(f.Parts) != len(want) {
		bad.Add("parts", fmt.Sprintf("all %d parts of the engine, or no list", len(want)), fmt.Sprint(len(f.Parts)))
		return bad
	}
	slices.SortStableFunc(f.Parts, func(x, y part.Placed) int { return order(want, x) - order(want, y) })
	for i, p := range f.Parts {
		if p != want[i] {
			bad.Add(fmt.Sprintf("parts[%d]", i),
				fmt.Sprintf("%s at %s, where the moves put it", want[i].Tag, want[i].At), fmt.Sprintf("%s at %s", p.Tag, p.At))
		}
	}
	return bad.Err()
}

// order is the rank of a part in the list as it should be, so that a list in
// another order, as version 1 wrote it, reads as well.
func order(want []part.Placed, p part.Placed) int {
	return slices.IndexFunc(want, func(w part.Placed) bool { return w.Tag == p.Tag })
}

// explain turns a decoding error into the path, what was expected and what came.
func explain(err error) error {
	if syntax, ok := errors.AsType[*jsontext.SyntacticError](err); ok {
		return invalid.Errors{{Field: orFile(path(string(syntax.JSONPointer))), Expected: "well-formed JSON in UTF-8, no name twice",
			Got: fmt.Sprintf("%v at byte %d", syntax.Err, syntax.ByteOffset)}}
	}
	if semantic, ok := errors.AsType[*json.SemanticError](err); ok {
		field := orFile(path(string(semantic.JSONPointer)))
		if errors.Is(semantic.Err, json.ErrUnknownName) {
			return invalid.Errors{{Field: field, Expected: "a field of the case file format", Got: "an unknown name"}}
		}
		if under, ok := errors.AsType[invalid.Error](semantic.Err); ok {
			return invalid.Errors{{Field: field, Expected: under.Expected, Got: under.Got}}
		}
		expected := "a value of another kind"
		if semantic.GoType != nil {
			expected = "a value that fits " + kindWords(semantic.GoType.Kind().String())
		}
		got := semantic.JSONKind.String()
		if len(semantic.JSONValue) > 0 {
			got = invalid.Quote(string(semantic.JSONValue))
		}
		return invalid.Errors{{Field: field, Expected: expected, Got: got}}
	}
	return invalid.Errors{{Field: "file", Expected: "a case file in JSON", Got: err.Error()}}
}

func kindWords(kind string) string {
	for _, row := range []struct{ prefix, words string }{
		{"int", "a whole number"}, {"uint", "a whole number"}, {"float", "a number"}, {"string", "a text"},
		{"bool", "true or false"}, {"slice", "a list"}, {"struct", "an object or a time"}, {"ptr", "an object"},
	} {
		if strings.HasPrefix(kind, row.prefix) {
			return row.words
		}
	}
	return kind
}

func orFile(field string) string {
	if field == "" {
		return "file"
	}
	return field
}

// path turns a JSON pointer ("/job/ledger/3/by") into "job.ledger[3].by".
func path(pointer string) string {
	var b strings.Builder
	for token := range jsontext.Pointer(pointer).Tokens() {
		switch {
		case token != "" && strings.Trim(token, "0123456789") == "":
			b.WriteString("[" + token + "]")
		case b.Len() > 0:
			b.WriteString("." + token)
		default:
			b.WriteString(token)
		}
	}
	return b.String()
}
