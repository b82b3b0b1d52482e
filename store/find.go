package store

import (
	"context"
	"encoding/base64"
	"fmt"
	"slices"
	"strconv"
	"strings"
	"time"
	"unicode"

	"gorm.io/gorm"

	"glenmist/core/evidence"
	"glenmist/core/invalid"
	"glenmist/core/plan"
)

// Query selects jobs. Its zero value selects all, the newest first.
type Query struct {
	// Words are searched in what [job.Job.Terms] holds: a job has to hold each of them, in part at least.
	Words string
	// Fleet is the number of a vehicle; State, Layout and Kind are those of the list; Code is a whole one; Person is part of a name, and
	// Mine a whole one; "" selects all.
	Fleet, State, Layout, Kind, Code, Person, Mine string
	// Due selects jobs whose recheck is due until this day, "" all.
	Due  evidence.Day
	Sort Sort
	// After is the place at which the page before ended, "" at the beginning.
	After Place
}

// Sort is an order of jobs.
type Sort string

// The orders.
const (
	NewestFirst Sort = ""
	OldestFirst Sort = "oldest"
	ByVehicle   Sort = "vehicle"
)

// Place is a place in a list: the time, the vehicle and the id of a job, as text that only this package reads.
type Place string

// Bounds of the words of a search.
const (
	mostWords = 8
	mostWord  = 60
	trigram   = 3 // letters: shorter words are searched as beginnings of words
)

// Find lists the selected jobs, up to [Page] of them, and the place at which it ended, "" at the end of the list. It makes one
// query, and one more each if the words may be a job's number, and if the newest jobs do not fill the page. Errors are [invalid.Error] if the place is none.
func (s *Store) Find(ctx context.Context, q Query) (list []Summary, next Place, err error) {
	list, next, err = s.find(ctx, q, Page)
	return list, next, err
}

// MostFound bounds the list of [Store.FindAll].
const MostFound = 10_000

// FindAll lists all selected jobs, up to [MostFound].
func (s *Store) FindAll(ctx context.Context, q Query) (list []Summary, err error) {
	q.After = ""
	list, _, err = s.find(ctx, q, MostFound)
	return list, err
}

func (s *Store) find(ctx context.Context, q Query, most int) (list []Summary, next Place, err error) {
	if number := strings.TrimSpace(q.Words); q.After == "" && strings.ContainsAny(number, "0123456789") && !strings.ContainsAny(number, " \t\n") {
		// A word that equals a job's number selects that job only.
		own := q
		own.Words = ""
		if list, _, err := s.list(own, 1, s.db.WithContext(ctx).Where("jobs.number = ?", number)); err != nil || len(list) > 0 {
			return list, "", err
		}
	}
	if q.common() && most == Page {
		newest := s.db.Raw("select * from jobs order by opened_at desc, id desc limit ?", newestSearched)
		list, next, err := s.list(q, most, s.db.WithContext(ctx).Table("(?) as jobs", newest))
		if err != nil || next != "" {
			return list, next, err
		}
	}
	return s.list(q, most, s.db.WithContext(ctx))
}

// newestSearched is the number of newest jobs that are searched first. Common words fill a page from them. The trigram index
// would collect all matching jobs before sorting.
const newestSearched = 1500

// common reports whether the newest jobs may fill the page of a query: words of some letters, the newest first.
func (q Query) common() bool {
	words := strings.Fields(q.Words)
	return len(words) > 0 && q.Sort == NewestFirst && q.After == "" &&
		!slices.ContainsFunc(words, func(w string) bool { return len([]rune(w)) < trigram })
}

// list lists jobs of a query, out of those of from.
func (s *Store) list(q Query, most int, from *gorm.DB) (list []Summary, next Place, err error) {
	db, err := q.where(from.InnerJoins("Vehicle"))
	if err != nil {
		return nil, "", err
	}
	switch q.Sort {
	case OldestFirst:
		db = db.Order("opened_at, jobs.id")
	case ByVehicle:
		db = db.Order(`"Vehicle"."fleet", opened_at desc, jobs.id desc`)
	default:
		db = db.Order("opened_at desc, jobs.id desc")
	}
	var rows []jobRow
	if err := db.Limit(most + 1).Find(&rows).Error; err != nil {
		return nil, "", err
	}
	if len(rows) > most {
		rows = rows[:most]
		next = placeOf(rows[most-1])
	}
	for _, r := range rows {
		list = append(list, Summary{r.job(nil), plan.Status{State: r.Sum.State, Words: r.Sum.Status}})
	}
	return list, next, nil
}

// where adds the conditions of the query.
func (q Query) where(db *gorm.DB) (*gorm.DB, error) {
	for i, word := range strings.Fields(q.Words) {
		if i == mostWords {
			break
		}
		word = firstRunes(word, mostWord)
		if plain := letters(word); len([]rune(word)) < trigram && plain != "" {
			db = db.Where("to_tsvector('simple', terms) @@ to_tsquery('simple', ?)", plain+":*")
		} else {
			db = db.Where("terms ilike ?", "%"+like.Replace(word)+"%")
		}
	}
	for _, c := range []struct{ column, value string }{{`"Vehicle"."fleet"`, q.Fleet}, {"jobs.state", q.State}, {"jobs.layout", q.Layout}, {"jobs.kind", q.Kind}} {
		if c.value != "" {
			db = db.Where(c.column+" = ?", c.value)
		}
	}
	if q.Person != "" {
		db = db.Where("people ilike ?", "%"+like.Replace(q.Person)+"%")
	}
	for _, c := range []struct{ column, value string }{{"codes", q.Code}, {"people", q.Mine}} {
		if c.value != "" {
			db = db.Where(c.column+" ilike ?", "%\n"+like.Replace(c.value)+"\n%")
		}
	}
	if q.Due != "" {
		db = db.Where("recheck_on <= ?", string(q.Due))
	}
	if q.After == "" {
		return db, nil
	}
	at, fleet, id, err := q.After.read()
	if err != nil {
		return nil, err
	}
	switch q.Sort {
	case OldestFirst:
		return db.Where("(opened_at, jobs.id) > (?, ?)", at, id), nil
	case ByVehicle:
		return db.Where(`"Vehicle"."fleet" > ? or "Vehicle"."fleet" = ? and (opened_at, jobs.id) < (?, ?)`, fleet, fleet, at, id), nil
	}
	return db.Where("(opened_at, jobs.id) < (?, ?)", at, id), nil
}

// like escapes what LIKE reads as a pattern.
var like = strings.NewReplacer(`\`, `\\`, `%`, `\%`, `_`, `\_`)

// letters are the letters and digits of a word.
func letters(word string) string {
	return strings.Map(func(r rune) rune {
		if unicode.IsLetter(r) || unicode.IsDigit(r) {
			return r
		}
		return -1
	}, word)
}

func firstRunes(s string, n int) string {
	if r := []rune(s); len(r) > n {
		return string(r[:n])
	}
	return s
}

func placeOf(r jobRow) Place {
	return Place(base64.RawURLEncoding.EncodeToString(fmt.Appendf(nil, "%d %d %s", r.OpenedAt.UnixMicro(), r.ID, r.Vehicle.Fleet)))
}

func (p Place) read() (at time.Time, fleet string, id int64, err error) {
	text, err := base64.RawURLEncoding.DecodeString(string(p))
	if err == nil {
		micro, rest, _ := strings.Cut(string(text), " ")
		number, name, _ := strings.Cut(rest, " ")
		var m int64
		if m, err = strconv.ParseInt(micro, 10, 64); err == nil {
			id, err = strconv.ParseInt(number, 10, 64)
		}
		at, fleet = time.UnixMicro(m).UTC(), strings.ToValidUTF8(strings.ReplaceAll(name, "\x00", ""), "")
	}
	if err != nil || at.Year() < 1900 || at.Year() > 9999 {
		return at, "", 0, invalid.Error{Field: "after", Expected: "a place in the list, from a link of the page", Got: invalid.Quote(string(p))}
	}
	return at, fleet, id, nil
}
