package web_test

import (
	"context"
	"crypto/sha256"
	"errors"
	"flag"
	"fmt"
	"maps"
	"net/http"
	"net/http/httptest"
	"os"
	"regexp"
	"slices"
	"strings"
	"sync"
	"testing"

	"golang.org/x/net/html"

	"glenmist/store"
	"glenmist/store/demo"
	"glenmist/web/page"
)

var update = flag.Bool("update", false, "write the golden figures anew")

const goldenOutputs = "testdata/golden.txt"

// The figures of each finding, and the files that other programs read, stay as they are: of the
// demo's jobs, whose words may change. -update writes them anew, where a defect was mended.
func TestOutputsStayAsTheyAre(t *testing.T) {
	h, numbers := ownWorld(t)
	paths := []string{"/calc/misfire-rate?count=23&revolutions=3000&format=json"}
	for _, fleet := range slices.Sorted(maps.Keys(numbers)) {
		job := "/jobs/" + numbers[fleet]
		paths = append(paths, job+"/finding", job+"/labels.svg", job+"/labels.svg?sheet=letter-30&skip=3", job+"/readings.csv")
	}
	captured := "/jobs/" + numbers["L-06"] + "/captures/"
	for _, kind := range []string{"trace", "row", "parade", "stack", "bars", "compare"} {
		paths = append(paths, captured+"2/picture.svg?picture="+kind)
	}
	for _, table := range []string{"cylinders.csv", "events.csv", "window?from=0&to=0.2&columns=300"} {
		paths = append(paths, captured+"1/"+table, captured+"2/"+table)
	}
	var out strings.Builder
	for _, path := range paths {
		r := httptest.NewRequestWithContext(t.Context(), http.MethodGet, path, nil)
		r.Host = "127.0.0.1"
		a := through(t, h, r)
		body := a.body
		switch {
		case strings.Contains(path, "/finding"):
			body = strings.Join(figuresOf(body), " ")
			fmt.Fprintf(&out, "%s %d %.60s %x\n", path, a.StatusCode, body, sha256.Sum256([]byte(body)))
			continue
		case strings.Contains(path, ".svg"):
			body = wordless(body)
		}
		fmt.Fprintf(&out, "%s %d %d bytes %x\n", path, a.StatusCode, len(body), sha256.Sum256([]byte(body)))
	}
	if *update {
		if err := os.WriteFile(goldenOutputs, []byte(out.String()), 0o644); err != nil {
			t.Fatal(err)
		}
		return
	}
	want, err := os.ReadFile(goldenOutputs)
	if err != nil {
		t.Fatal(err)
	}
	got, old := strings.Split(out.String(), "\n"), strings.Split(string(want), "\n")
	for i := range min(len(got), len(old)) {
		if got[i] != old[i] {
			t.Errorf("was %s\nis  %s", old[i], got[i])
		}
	}
	if len(got) != len(old) {
		t.Errorf("%d lines, want %d", len(got), len(old))
	}
}

// loadTemplate loads the demo's jobs into a database that others are copied from.
var loadTemplate = sync.OnceValue(func() error {
	ctx := context.Background()
	d, err := server.Create(ctx, "template_demo", "")
	if err != nil {
		return err
	}
	if _, err := store.MigrateAs(ctx, d.OwnerURL, d.URL); err != nil {
		return err
	}
	s, err := store.Open(d.URL)
	if err != nil {
		return err
	}
	_, err = demo.Load(ctx, s, moment)
	return errors.Join(err, s.Close())
})

// demoStore is a database of a test's own with the demo's people and jobs.
func demoStore(t *testing.T) *store.Store {
	t.Helper()
	if err := loadTemplate(); err != nil {
		t.Fatal(err)
	}
	d, err := server.Create(t.Context(), strings.ToLower(t.Name()), "template_demo")
	if err != nil {
		t.Fatal(err)
	}
	s, err := store.Open(d.URL)
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { _ = s.Close() })
	return s
}

// ownWorld is a handler on a database with the demo's jobs that no other test writes to, and the
// numbers of the jobs by vehicle. more loads what is wanted besides.
func ownWorld(t *testing.T, more ...func(*store.Store) error) (http.Handler, map[string]string) {
	t.Helper()
	s := demoStore(t)
	for _, load := range more {
		if err := load(s); err != nil {
			t.Fatal(err)
		}
	}
	list, _, err := s.Find(t.Context(), store.Query{})
	if err != nil {
		t.Fatal(err)
	}
	numbers := map[string]string{}
	for _, rec := range list {
		numbers[rec.Job.Vehicle.Fleet] = rec.Job.Number
	}
	return handlerWith(t, func(c *page.Config) { c.Jobs = s }), numbers
}

// figuresOf lists the figures with a unit or a sign of per cent in the text of a page, sorted: a
// sentence may be written anew, what it counts may not.
func figuresOf(page string) []string {
	doc, err := html.Parse(strings.NewReader(page))
	if err != nil {
		return nil
	}
	var all []string
	for n := range doc.Descendants() {
		if n.Type == html.TextNode && n.Parent.Data != "text" {
			all = append(all, regexp.MustCompile(`[<>]?\d[\d.,]*[ \x{202f}\x{a0}]?(?:%|kV|km|Ω|kΩ|mm|min|V|bar|ms)`).FindAllString(n.Data, -1)...)
		}
	}
	slices.Sort(all)
	return all
}

// wordless is a drawing without its words, and without the space between its elements.
func wordless(svg string) string {
	svg = regexp.MustCompile(`\s+`).ReplaceAllString(svg, " ")
	svg = strings.TrimSpace(regexp.MustCompile(`> <`).ReplaceAllString(svg, "><"))
	svg = regexp.MustCompile(`aria-label="[^"]*"`).ReplaceAllString(svg, "")
	return regexp.MustCompile(`(<text[^>]*>)[^<]*(</text>)`).ReplaceAllString(svg, "$1$2")
}

// The list of jobs says where each stands, the newest first.
func TestListSaysWhereJobsStand(t *testing.T) {
	h, numbers := ownWorld(t)
	r := httptest.NewRequestWithContext(t.Context(), http.MethodGet, "/jobs", nil)
	r.Host = "127.0.0.1"
	a := through(t, h, r)
	a.has(t, "P-07", "The misfire followed coil C4 with boot B4 to cylinder 2")
	if newest, oldest := strings.Index(a.readable(), numbers["C-08"]), strings.Index(a.readable(), numbers["B-03"]); newest < 0 || oldest < newest {
		t.Errorf("the newest job stands at %d, the oldest at %d", newest, oldest)
	}
}
