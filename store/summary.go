package store

import (
	"context"
	"errors"
	"fmt"
	"time"
	"unicode/utf8"

	"gorm.io/gorm"

	"glenmist/core/evidence"
	"glenmist/core/job"
	"glenmist/core/plan"
	"glenmist/core/score"
	"glenmist/core/shop"
)

// summary is the state of a job, stored with it. It is derived from the ledger by one version
// of the program and of the workshop's settings.
type summary struct {
	State      string
	Status     string
	RecheckOn  *time.Time
	ComebackOf string
	Outcome    *score.Outcome `gorm:"type:jsonb;serializer:nullable"`
	SummaryOf  string
	// What the job is found by.
	Terms, Layout, Kind, Codes, People string
}

// summariser computes summaries.
type summariser struct {
	set shop.Settings
	of  string
}

// SetProgram names the program whose reasoning the summaries come from: those of another are worked
// out anew by [Store.Refresh]. Call it before the store is used.
func (s *Store) SetProgram(version string) { s.program = version }

func (s *Store) summariser(ctx context.Context) (summariser, error) {
	set, version, err := s.Shop(ctx)
	return summariser{set, fmt.Sprintf("%.80s/%d", s.program, version)}, err
}

func (m summariser) summary(j job.Job) summary {
	brief := m.set.Summary(j)
	sum := summary{State: brief.Status.State, Status: fmt.Sprintf("%.200s", brief.Status.Words), ComebackOf: brief.ComebackOf, Outcome: brief.Outcome, SummaryOf: m.of}
	terms := j.Terms()
	sum.Terms, sum.Layout, sum.Kind = terms.Text, string(terms.Layout), terms.Kind
	sum.Codes, sum.People = lines(terms.Codes, 4000), lines(terms.People, 20_000)
	if day, ok := brief.Recheck.Time(); ok {
		sum.RecheckOn = &day
	}
	return sum
}

// lines joins some words one to a line, with a line break before and after each, up to some letters.
func lines(words []string, most int) string {
	all, n := "\n", 1
	for _, w := range words {
		if n += utf8.RuneCountInString(w) + 1; n > most {
			break
		}
		all += w + "\n"
	}
	return all
}

// Summary is a job in a list, with its state.
type Summary struct {
	Job    job.Job // without its ledger
	Status plan.Status
}

// MaxRechecks bounds the list of rechecks.
const MaxRechecks = 200

// Recheck is a job that is to be looked at again.
type Recheck struct {
	Summary
	Due evidence.Day
}

// Rechecks lists the jobs whose recheck is due until a day, the oldest first, up to [MaxRechecks]. It makes
// one query.
func (s *Store) Rechecks(ctx context.Context, until evidence.Day) (list []Recheck, err error) {
	var rows []jobRow
	err = s.db.WithContext(ctx).Joins("Vehicle").Where("recheck_on <= ?", string(until)).Order("recheck_on, jobs.id").Limit(MaxRechecks).Find(&rows).Error
	for _, r := range rows {
		list = append(list, Recheck{Summary{r.job(nil), plan.Status{State: r.Sum.State, Words: r.Sum.Status}}, evidence.DayOf(*r.Sum.RecheckOn)})
	}
	return list, err
}

// MaxOutcomes bounds what a score is made from.
const MaxOutcomes = 20_000

// Outcomes lists what became of the verdicts, the newest jobs first, up to [MaxOutcomes]. A job that came back
// counts as such. Imported jobs are left out unless they count. It makes one query.
func (s *Store) Outcomes(ctx context.Context, imported bool) (list []score.Outcome, err error) {
	var rows []struct {
		Outcome score.Outcome `gorm:"serializer:case"`
		Back    bool
	}
	err = s.db.WithContext(ctx).Raw(`select j.outcome, exists (`+cameBack+`) as back from jobs j
		where j.outcome is not null and (? or not j.imported) order by j.opened_at desc limit ?`, imported, MaxOutcomes).Scan(&rows).Error
	for _, r := range rows {
		if r.Back {
			r.Outcome.Result, r.Outcome.InVain = score.CameBack, r.Outcome.Parts
		}
		list = append(list, r.Outcome)
	}
	return list, err
}

// cameBack selects the later jobs on the same trouble as job j. The second condition lets the index of comebacks serve.
const cameBack = `select 1 from jobs back where back.comeback_of = j.number and back.comeback_of <> ''`

// refreshed is the number of summaries that one call of Refresh computes.
const refreshed = 20

// Refresh works out some summaries that another program or other settings have left, the newest jobs
// first, and says whether there may be more.
func (s *Store) Refresh(ctx context.Context) (more bool, err error) {
	m, err := s.summariser(ctx)
	if err != nil {
		return false, err
	}
	var numbers []string
	err = s.db.WithContext(ctx).Model(&jobRow{}).Where("summary_of <> ?", m.of).Order("opened_at desc, id desc").Limit(refreshed).Pluck("number", &numbers).Error
	if err != nil {
		return false, err
	}
	for _, number := range numbers {
		rec, err := s.Job(ctx, number)
		if errors.Is(err, ErrNotFound) {
			continue
		}
		if err != nil {
			return false, err
		}
		// A job that was written to meanwhile already has a new summary.
		err = s.db.WithContext(ctx).Model(&jobRow{}).Where("number = ? and version = ?", number, rec.Version).Select(summaryColumns).
			Updates(jobRow{Sum: m.summary(rec.Job)}).Error
		if err != nil {
			return false, err
		}
	}
	return len(numbers) == refreshed, nil
}

var summaryColumns = []string{"state", "status", "recheck_on", "comeback_of", "outcome", "summary_of", "terms", "layout", "kind", "codes", "people"}

// keep stores the summary of a job.
func (sum summary) keep(tx *gorm.DB, id int64) error {
	return tx.Model(&jobRow{ID: id}).Select(summaryColumns).Updates(jobRow{Sum: sum}).Error
}
