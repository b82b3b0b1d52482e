// Package page is what every page of the server shares: configuration, templates, built files,
// forms with their errors, uploads, and the pages that say what went wrong. It knows no job.
package page

import (
	"context"
	"iter"
	"log/slog"
	"net/http"
	"net/url"
	"strings"
	"time"

	"glenmist/core/engine"
	"glenmist/core/evidence"
	"glenmist/core/job"
	"glenmist/core/scope"
	"glenmist/spool"
	"glenmist/store"
)

// Config is what a server needs besides its jobs.
type Config struct {
	Jobs    *store.Store
	Log     *slog.Logger
	Now     func() time.Time
	Version string
	// Loopback says that only this machine is served: requests that name another host
	// are refused.
	Loopback bool
	// PublicURL is the address that people use, such as https://glenmist.example; nil
	// where the server is reached as it listens. Hosts are other names that it answers to.
	PublicURL *url.URL
	Hosts     []string
	// Stopping ends when the server is to stop: streams without an end stop then. nil is never.
	Stopping context.Context
	// Stall is how long a client may leave an upload or a download without a byte; 0 is
	// half a minute.
	Stall time.Duration
	// Instruments are what can be read with one key; nil is none.
	Instruments Instruments
}

// Instruments are a meter and a spark tester that can be read: the simulated ones that ship
// with it, or real ones behind the same questions. Errors are [invalid.Error] where the
// question is at fault.
type Instruments interface {
	// Read is one reading of one part or place, as the instrument shows it.
	Read(j job.Job, id evidence.MeasureID, on evidence.Reading) (evidence.Readings, error)
	// Spark is what a tester shows at one cylinder.
	Spark(j job.Job, test evidence.Sparks, at engine.Place) (evidence.ResultID, error)
	// Scope listens to the secondary kilovolts in a condition, some cycles at a time, without an
	// end: what a file of a scope holds, live. run sets one recording apart from another.
	Scope(j job.Job, when evidence.Condition, run uint64) (iter.Seq[*scope.Trace], error)
}

// Time limits of the routes. A page is worked out in milliseconds; an upload may
// come over a slow line.
const (
	PageTime   = 10 * time.Second
	UploadTime = 60 * time.Second
	// captureTime is for 200 MB over a workshop's own network.
	CaptureTime = 5 * time.Minute
	// listenTime is how long the scope is listened to in one go.
	ListenTime = 10 * time.Minute
)

// App is what every handler needs: the configuration, the pages and the assets, and temporary files.
type App struct {
	Config
	Templates *Templates
	Assets    *Assets
	// spool holds uploads and downloads while clients send and receive them.
	Spool *spool.Pool
}

// New makes an App with its own room for temporary files.
func New(cfg Config, assets *Assets, pages *Templates) *App {
	if cfg.Stopping == nil {
		cfg.Stopping = context.Background()
	}
	return &App{cfg, pages, assets, spool.New(maxSpooled)}
}

// Secure says whether people reach this server by TLS.
func (s *App) Secure() bool { return s.PublicURL != nil && s.PublicURL.Scheme == "https" }

// Home is the address that people use, without a slash at the end.
func (s *App) Home(r *http.Request) string {
	if s.PublicURL != nil {
		return strings.TrimSuffix(s.PublicURL.String(), "/")
	}
	return "http://" + r.Host
}

// WriteText answers with a plain text.
func WriteText(w http.ResponseWriter, code int, text string) {
	w.Header().Set("Content-Type", "text/plain; charset=utf-8")
	w.Header().Set("Cache-Control", "no-store")
	w.WriteHeader(code)
	_, _ = w.Write([]byte(text))
}
