// Package page has what all pages share: configuration, templates, built files, forms with
// errors, uploads, and error pages. It does not depend on jobs.
package page

import (
	"context"
	"iter"
	"log/slog"
	"net/http"
	"net/netip"
	"net/url"
	"strings"
	"time"

	"github.com/prometheus/client_golang/prometheus"

	"glenmist/backup"
	"glenmist/core/engine"
	"glenmist/core/evidence"
	"glenmist/core/job"
	"glenmist/core/scope"
	"glenmist/link"
	"glenmist/spool"
	"glenmist/store"
)

// Config is the configuration of a server.
type Config struct {
	Jobs    *store.Store
	Log     *slog.Logger
	Now     func() time.Time
	Version string
	// Loopback is true if only this machine is served. Requests for another host name are
	// rejected.
	Loopback bool
	// Address is where the server listens, for links in the log.
	Address string
	// PublicURL is the address that people use, such as https://glenmist.example; nil if it is
	// the listening address. Hosts lists other accepted host names.
	PublicURL *url.URL
	Hosts     []string
	// Stopping ends when the server stops, and endless streams with it; nil means never.
	Stopping context.Context
	// Demo is true if people sign in by one tap, without a password.
	Demo bool
	// Proxies are the addresses whose X-Forwarded-For is believed.
	Proxies []netip.Prefix
	// Limits bounds how often something may be tried; nil means the usual limits.
	Limits *Limits
	// Gallery is true if /gallery shows the states of the views, in development.
	Gallery bool
	// Stall is the longest pause of a client during an upload or download; 0 means half a
	// minute.
	Stall time.Duration
	// Backups are those that are made while serving; nil means none.
	Backups *backup.Schedule
	// Metrics takes the server's numbers; nil means that nobody asks for them.
	Metrics prometheus.Registerer
	// Instruments are the instruments that can be read with one key; nil means none.
	Instruments Instruments
	// Vehicles has the connections to vehicles; nil means that none can be reached.
	Vehicles *link.Hub
}

// Instruments is a meter and spark tester: the simulated ones, or real ones with the same
// interface. Errors are [invalid.Error] if the question is wrong.
type Instruments interface {
	// Read returns one reading of one part or place.
	Read(j job.Job, id evidence.MeasureID, on evidence.Reading) (evidence.Readings, error)
	// Spark returns the result of a spark tester at one cylinder.
	Spark(j job.Job, test evidence.Sparks, at engine.Place) (evidence.ResultID, error)
	// Scope returns an endless sequence of traces of the secondary kilovolts in a condition, a
	// few cycles each. run distinguishes recordings.
	Scope(j job.Job, when evidence.Condition, run uint64) (iter.Seq[*scope.Trace], error)
}

// Time limits of the routes. A page takes milliseconds; an upload may use a slow line.
const (
	PageTime   = 10 * time.Second
	UploadTime = 60 * time.Second
	// captureTime allows 200 MB over a workshop network.
	CaptureTime = 5 * time.Minute
	// listenTime is the length of one live view.
	ListenTime = 10 * time.Minute
)

// App holds what every handler needs: configuration, templates, assets and temporary files.
type App struct {
	Config
	Templates *Templates
	Assets    *Assets
	// spool holds uploads and downloads during transfer.
	Spool *spool.Pool
}

// New returns an App with its own temporary files.
func New(cfg Config, assets *Assets, pages *Templates) *App {
	if cfg.Stopping == nil {
		cfg.Stopping = context.Background()
	}
	if cfg.Metrics == nil {
		cfg.Metrics = prometheus.NewRegistry()
	}
	return &App{cfg, pages, assets, spool.New(maxSpooled)}
}

// Limits bounds requests of one person from one address.
type Limits struct {
	SignIns int // a minute, by name and address
	Uploads int // a minute
	Imports int // a minute
}

// UsualLimits are those of a workshop.
var UsualLimits = Limits{SignIns: 10, Uploads: 60, Imports: 20}

// Secure reports whether the server is reached over TLS.
func (s *App) Secure() bool { return s.PublicURL != nil && s.PublicURL.Scheme == "https" }

// HomeAddress returns the address that people use, for the log, without a trailing slash.
func (s *App) HomeAddress() string {
	if s.PublicURL != nil {
		return strings.TrimSuffix(s.PublicURL.String(), "/")
	}
	return "http://" + s.Address
}

// Home returns the address that people use, without a trailing slash.
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
