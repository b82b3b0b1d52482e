// Package rig runs the real server on a real, throwaway database, and a real
// browser to drive it: for the journeys and for the pictures.
package rig

import (
	"context"
	"errors"
	"fmt"
	"log/slog"
	"math/rand/v2"
	"net"
	"net/http"
	"os"
	"os/exec"
	"time"

	"github.com/chromedp/chromedp"

	"glenmist/bus"
	"glenmist/link"
	"glenmist/sim/simulator"
	"glenmist/sim/standin"
	"glenmist/sim/vehicle"
	"glenmist/store"
	"glenmist/store/cluster"
	"glenmist/store/demo"
	"glenmist/web"
	"glenmist/web/page"
)

// Rig is a server with its database.
type Rig struct {
	// URL is the server's address, without a slash at the end.
	URL   string
	Store *store.Store

	database cluster.Database
	server   *http.Server
	address  string
	now      func() time.Time
	stop     func() error // of the cluster, where it is the rig's own
	serving  context.Context
	served   context.CancelFunc
	// Cars is the address of the simulated vehicles.
	Cars string
}

// Template is a cluster with a database of the demo's jobs, of which each rig gets a copy.
type Template struct {
	cluster *cluster.Cluster
	now     func() time.Time
}

// template is the name of that database.
const template = "template_demo"

// NewTemplate starts a cluster and loads the demo's jobs. now is the clock of its rigs.
func NewTemplate(ctx context.Context, now func() time.Time) (*Template, error) {
	c, err := cluster.StartThrowaway(ctx)
	if err != nil {
		return nil, err
	}
	if err := load(ctx, c, now()); err != nil {
		return nil, errors.Join(err, c.Stop())
	}
	return &Template{c, now}, nil
}

func load(ctx context.Context, c *cluster.Cluster, now time.Time) error {
	d, err := c.Create(ctx, template, "")
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
	_, err = demo.Load(ctx, s, now)
	return errors.Join(err, s.Close())
}

// Start starts a server on a copy of the demo's jobs, in a database of this name.
func (t *Template) Start(ctx context.Context, name string) (*Rig, error) {
	d, err := t.cluster.Create(ctx, name, template)
	if err != nil {
		return nil, err
	}
	r := &Rig{database: d, address: "127.0.0.1:0", now: t.now, stop: func() error { return nil }}
	return r, r.Serve()
}

// Stop stops the cluster. Its rigs must have been stopped.
func (t *Template) Stop() error { return t.cluster.Stop() }

// Start starts a cluster and a server on the demo's jobs. now is the server's clock.
func Start(ctx context.Context, now func() time.Time) (*Rig, error) {
	t, err := NewTemplate(ctx, now)
	if err != nil {
		return nil, err
	}
	r, err := t.Start(ctx, "demo")
	if err != nil {
		return nil, errors.Join(err, t.Stop())
	}
	r.stop = t.Stop
	return r, nil
}

// Serve connects to the database and serves, at the same address as before when
// it served already.
func (r *Rig) Serve() error {
	var err error
	if r.Store, err = store.Open(r.database.URL); err != nil {
		return err
	}
	instruments := standin.Standin{Chance: func(a, b uint64) simulator.Rand { return rand.New(rand.NewPCG(a, b)) }} //nolint:gosec // nothing secret
	cars, err := r.vehicles(instruments)
	if err != nil {
		return err
	}
	handler, err := web.New(page.Config{Jobs: r.Store, Log: slog.New(slog.DiscardHandler), Now: r.now, Version: "test", Loopback: true, Gallery: true,
		Demo: true, Limits: &page.Limits{SignIns: 1e6, Uploads: 1e6, Imports: 1e6},
		Instruments: instruments, Vehicles: cars, Stopping: r.serving})
	if err != nil {
		return err
	}
	l, err := net.Listen("tcp", r.address)
	if err != nil {
		return err
	}
	r.address = l.Addr().String()
	r.URL = "http://" + r.address
	r.server = &http.Server{Handler: handler, ReadHeaderTimeout: 5 * time.Second}
	go func() { _ = r.server.Serve(l) }()
	return nil
}

// vehicles starts the simulated vehicles, and connects to them over TCP. They end with the server.
func (r *Rig) vehicles(of standin.Standin) (*link.Hub, error) {
	r.serving, r.served = context.WithCancel(context.Background())
	l, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		return nil, err
	}
	ctx := r.serving
	go func() { _ = (&vehicle.Server{Open: of.Engine, Chance: of.Chance}).Serve(ctx, l) }()
	r.Cars = "sim:" + l.Addr().String()
	at, err := bus.ParseAddress(r.Cars)
	return link.NewHub(ctx, at), err
}

// SignIn signs one of the demo's people in, in a browser, by one tap.
func (r *Rig) SignIn(browser context.Context, name string) error {
	tap := fmt.Sprintf(`void [...document.querySelectorAll("button[name=person]")].find((b) => b.textContent.includes(%q)).click()`, name)
	if err := chromedp.Do(browser, chromedp.Navigate(r.URL+"/sign-in"), chromedp.WaitReady(chromedp.CSS("main")), chromedp.Evaluate[chromedp.Void](tap), chromedp.WaitReady(chromedp.CSS("#listed"))); err != nil {
		return fmt.Errorf("sign in as %s: %w", name, err)
	}
	return nil
}

// Close takes the server away and leaves the database running.
func (r *Rig) Close() error {
	r.served()
	return errors.Join(r.server.Close(), r.Store.Close())
}

// Stop takes everything away.
func (r *Rig) Stop() error { return errors.Join(r.Close(), r.stop()) }

// Browser starts a headless Chromium with an empty profile. Cancel ends it.
func Browser(ctx context.Context) (context.Context, context.CancelFunc, error) {
	path := ""
	for _, name := range []string{os.Getenv("GLENMIST_CHROMIUM"), "chromium", "chromium-browser"} {
		if name == "" {
			continue
		}
		if found, err := exec.LookPath(name); err == nil {
			path = found
			break
		}
	}
	if path == "" {
		return nil, nil, errors.New("no browser: Chromium was not found: run scripts/need.sh, or install Debian's package chromium, or set GLENMIST_CHROMIUM")
	}
	// Fewer processes: site isolation, spare renderers and kept pages cost an eighth of the time.
	lean := []chromedp.ExecAllocatorOption{chromedp.Flag("renderer-process-limit", "2"), chromedp.Flag("disable-site-isolation-trials", true),
		chromedp.Flag("disable-features", "Translate,IsolateOrigins,site-per-process,SpareRendererForSitePerProcess,BackForwardCache")}
	options := append(append(chromedp.DefaultExecAllocatorOptions[:], lean...), chromedp.ExecPath(path), chromedp.NoSandbox,
		chromedp.Flag("disable-quic", true), chromedp.Flag("no-first-run", true),
		chromedp.Flag("disable-background-networking", true), chromedp.Flag("disable-component-update", true),
		chromedp.Flag("disable-sync", true), chromedp.WindowSize(1280, 800))
	alloc, stopAlloc := chromedp.NewExecAllocator(ctx, options...)
	browser, stop := chromedp.NewContext(alloc)
	if err := chromedp.Do(browser); err != nil {
		stop()
		stopAlloc()
		return nil, nil, fmt.Errorf("start Chromium: %w", err)
	}
	return browser, func() { stop(); stopAlloc() }, nil
}
