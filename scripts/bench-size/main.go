// Command bench-size measures the pages of a workshop with many jobs against one with few, and many people at once. It starts a
// private PostgreSQL for that and prints a table.
package main

import (
	"context"
	"errors"
	"flag"
	"fmt"
	"log/slog"
	"net/http"
	"net/http/httptest"
	"os"
	"slices"
	"strings"
	"sync"
	"time"

	"github.com/jackc/pgx/v5"

	"glenmist/store"
	"glenmist/store/cluster"
	"glenmist/store/demo"
	"glenmist/web"
	"glenmist/web/page"
	"glenmist/web/webtest"
)

func main() {
	few := flag.Int("few", 100, "jobs of the small workshop")
	n := flag.Int("n", 100_000, "jobs of the large one")
	rounds := flag.Int("rounds", 40, "requests of each page")
	seconds := flag.Int("seconds", 20, "seconds with 50 readers and 5 writers")
	flag.Parse()
	if *few < 60 || *n < *few || *n > store.MaxMultiplied || *rounds < 1 || *rounds > 1000 || *seconds < 0 || *seconds > 600 {
		fmt.Fprintf(os.Stderr, "bench-size: expected -few of 60 or more, -n from that to %d, -rounds from 1 to 1000 and -seconds up to 600\n", store.MaxMultiplied)
		os.Exit(2)
	}
	if err := run(context.Background(), *few, *n, *rounds, time.Duration(*seconds)*time.Second); err != nil {
		fmt.Fprintln(os.Stderr, "bench-size:", err)
		os.Exit(1)
	}
}

func run(ctx context.Context, few, n, rounds int, long time.Duration) (err error) {
	c, err := cluster.StartThrowaway(ctx)
	if err != nil {
		return err
	}
	defer func() { err = errors.Join(err, c.Stop()) }()
	if _, err := store.MigrateAs(ctx, c.OwnerURL, c.URL); err != nil {
		return err
	}
	s, err := store.Open(c.URL)
	if err != nil {
		return err
	}
	defer func() { _ = s.Close() }()
	if _, err := demo.Load(ctx, s, time.Now()); err != nil {
		return err
	}
	if err := demo.LoadPast(ctx, s, time.Now()); err != nil {
		return err
	}
	own, err := s.Numbers(ctx)
	if err != nil {
		return err
	}
	handler, err := web.New(page.Config{Jobs: s, Log: slog.New(slog.DiscardHandler), Now: time.Now, Version: "bench", Loopback: true, Demo: true, Limits: &page.Limits{SignIns: 1e6, Uploads: 1e6, Imports: 1e6}})
	if err != nil {
		return err
	}
	session, err := webtest.SignIn(handler, demo.Staff[0].Name)
	if err != nil {
		return err
	}
	handler = webtest.As(handler, session)
	measured := func(n int) ([]time.Duration, error) {
		began := time.Now()
		if err := s.Multiply(ctx, n); err != nil {
			return nil, err
		}
		if err := settle(ctx, c.AdminURL); err != nil {
			return nil, err
		}
		var entries int
		if err := s.SQL().QueryRowContext(ctx, "select count(*) from entries").Scan(&entries); err != nil {
			return nil, err
		}
		fmt.Printf("%d jobs with %d entries after %.0f s\n", n, entries, time.Since(began).Seconds())
		var all []time.Duration
		for _, p := range pages {
			d, err := median(handler, p.path, rounds)
			if err != nil {
				return nil, err
			}
			all = append(all, d)
		}
		return all, nil
	}
	small, err := measured(few)
	if err != nil {
		return err
	}
	large, err := measured(n)
	if err != nil {
		return err
	}
	fmt.Printf("\n| page | %d jobs | %d jobs | ratio |\n|---|---|---|---|\n", few, n)
	for i, p := range pages {
		fmt.Printf("| %s | %.1f ms | %.1f ms | %.2f |\n", p.words, ms(small[i]), ms(large[i]), float64(large[i])/float64(small[i]))
	}
	return crowd(handler, own, long)
}

func ms(d time.Duration) float64 { return float64(d.Microseconds()) / 1000 }

// pages are what is measured. The n-th request of a page has n in place of the #.
var pages = []struct{ words, path string }{
	{"the list of jobs", "/jobs"},
	{"the list, oldest first", "/jobs?sort=oldest"},
	{"the list, by vehicle", "/jobs?sort=vehicle"},
	{"search: a number", "/jobs?q=X-000000#"},
	{"search: a word in many jobs", "/jobs?q=misfire"},
	{"search: two words", "/jobs?q=coil+wyn"},
	{"search: a word in none", "/jobs?q=zeppelin"},
	{"search: two letters", "/jobs?q=p1"},
	{"filter: a state", "/jobs?state=closed"},
	{"filter: a code", "/jobs?code=P0302"},
	{"filter: a person and a layout", "/jobs?person=Wyn+Fellgarth&layout=magneto"},
	{"the vehicles", "/vehicles"},
	{"the page of a vehicle", "/vehicles/L-06"}, // with three visits in both
	{"a job, opened anew", "/jobs/X-000000#"},
}

// settle lets the database gather its statistics.
func settle(ctx context.Context, admin string) error {
	conn, err := pgx.Connect(ctx, admin)
	if err != nil {
		return err
	}
	_, err = conn.Exec(ctx, "vacuum analyze") //nolint:misspell // SQL
	return errors.Join(err, conn.Close(ctx))
}

// median is the median time of a page, with every numbered address asked for once in turn.
func median(h http.Handler, path string, rounds int) (time.Duration, error) {
	var all []time.Duration
	for i := range rounds {
		at := strings.ReplaceAll(path, "#", fmt.Sprint(i%8+1))
		code, took := ask(h, http.MethodGet, at, "")
		if code != http.StatusOK {
			return 0, fmt.Errorf("%s answers %d", at, code)
		}
		all = append(all, took)
	}
	slices.Sort(all)
	return all[len(all)/2], nil
}

// ask sends a request and returns its status and the time that it took.
func ask(h http.Handler, method, path, form string) (int, time.Duration) {
	r := httptest.NewRequest(method, "http://localhost"+path, strings.NewReader(form))
	r.Header.Set("Sec-Fetch-Site", "same-origin")
	if form != "" {
		r.Header.Set("Content-Type", "application/x-www-form-urlencoded")
	}
	w := httptest.NewRecorder()
	began := time.Now()
	h.ServeHTTP(w, r)
	return w.Code, time.Since(began)
}

// readers and writers are those of a crowd. Each waits between two requests, as people do.
const (
	readers = 50
	writers = 5
	thinks  = 400 * time.Millisecond
)

// crowd lets readers turn pages while writers open jobs, and prints how long the pages took.
func crowd(h http.Handler, numbers []string, long time.Duration) error {
	if long == 0 {
		return nil
	}
	var mu sync.Mutex
	var times []time.Duration
	wrote, failed := 0, 0
	var wg sync.WaitGroup
	end := time.Now().Add(long)
	for i := range readers {
		wg.Go(func() {
			for k := i; time.Now().Before(end); k++ {
				path := []string{"/jobs", "/jobs?q=coil", "/jobs/" + numbers[k%len(numbers)], "/vehicles", "/jobs?state=closed"}[k%5]
				code, took := ask(h, http.MethodGet, path, "")
				mu.Lock()
				if times = append(times, took); code != http.StatusOK {
					failed++
				}
				mu.Unlock()
				time.Sleep(thinks)
			}
		})
	}
	for i := range writers {
		wg.Go(func() {
			for k := 0; time.Now().Before(end); k++ {
				form := fmt.Sprintf("fleet=W-%d&what=test+bed&distance=1000+km&complaint=shakes&by=Wyn&pattern=four-across&key=crowd%d-%06d-0123456789", i, i, k)
				code, _ := ask(h, http.MethodPost, "/jobs", form)
				mu.Lock()
				if wrote++; code != http.StatusSeeOther {
					failed++
				}
				mu.Unlock()
				time.Sleep(thinks)
			}
		})
	}
	wg.Wait()
	slices.Sort(times)
	middle, late := times[len(times)/2], times[len(times)*99/100]
	fmt.Printf("\n%d readers and %d writers for %.0f s: %d pages, %d jobs opened, %d errors; median %.1f ms, 99 of 100 within %.1f ms: %.1f times\n",
		readers, writers, long.Seconds(), len(times), wrote, failed, ms(middle), ms(late), float64(late)/float64(middle))
	if failed > 0 {
		return fmt.Errorf("%d requests failed", failed)
	}
	return nil
}
