// Package web is the face in the browser: routes, handlers, pages and assets. It
// is the only place that knows HTTP. A page has its handler, its view model and
// its template side by side, named alike.
package web

import (
	"context"
	"net/http"
	"sync/atomic"
	"time"

	"github.com/go-chi/chi/v5"
	"github.com/go-chi/chi/v5/middleware"

	"glenmist/archive"
	"glenmist/store"
	"glenmist/web/page"
)

type server struct {
	*page.App
	captures *captures
	// listening is how many browsers listen to the scope.
	listening  atomic.Int32
	refreshing atomic.Bool
}

// New makes the handler. It fails when the assets have not been built.
func New(cfg page.Config) (http.Handler, error) {
	assets, err := page.LoadAssets(built)
	if err != nil {
		return nil, err
	}
	pages, err := page.LoadTemplates(assets, templates...)
	if err != nil {
		return nil, err
	}
	s := &server{App: page.New(cfg, assets, pages), captures: newCaptures()}

	s.refresh()
	r := chi.NewRouter()
	r.Use(middleware.RequestID, middleware.GetHead, s.logged, s.recovered, s.secured, s.answered, s.atHome, crossOrigin(s))
	r.NotFound(s.NotFound)
	r.MethodNotAllowed(func(w http.ResponseWriter, r *http.Request) {
		s.Fail(w, r, http.StatusMethodNotAllowed, "That address does not take this kind of request.")
	})
	r.Get("/healthz", s.healthz)
	r.Get("/readyz", s.readyz)
	r.Handle("/static/*", deadline(page.PageTime)(http.HandlerFunc(s.Assets.Serve)))
	s.fileRoutes(r)
	s.pageRoutes(r)
	return r, nil
}

// fileRoutes are those that send or receive files, or stream: their limits of size and time
// differ from those of pages.
func (s *server) fileRoutes(r chi.Router) {
	r.Group(func(r chi.Router) {
		r.Use(s.decoded, deadline(page.CaptureTime), limitBody(maxCapture))
		r.Post("/jobs/{id}/captures", s.addCapture)
		r.Get("/jobs/{id}/captures/{n}/file", s.sendCapture)
		r.Post("/jobs/{id}/scope", s.keepScope)
		r.Get("/jobs/{id}/export.zip", s.exportAll)
	})
	r.Group(func(r chi.Router) {
		r.Use(s.decoded, deadline(page.CaptureTime), limitBody(archive.MaxBytes+page.MaxUpload))
		r.Post("/jobs/import", s.importJob)
	})
	r.Group(func(r chi.Router) {
		r.Use(s.decoded, deadline(page.UploadTime), limitBody(maxPhoto))
		r.Post("/jobs/{id}/photos", s.addPhoto)
	})
	r.Group(func(r chi.Router) {
		r.Use(s.decoded, deadline(page.ListenTime))
		r.Get("/jobs/{id}/scope", s.listen)
	})
	r.Group(func(r chi.Router) {
		r.Use(s.decoded, deadline(page.UploadTime), limitBody(page.MaxUpload))
		r.Post("/jobs/{id}/scan", s.readScan)
		r.Post("/jobs/{id}/readings", s.readReadings)
	})
}

// pageRoutes are all others.
func (s *server) pageRoutes(r chi.Router) {
	r.Group(func(r chi.Router) {
		r.Use(s.decoded, deadline(page.PageTime), limitBody(maxForm), middleware.Compress(5, "text/html", "application/json", "image/svg+xml"))
		r.Get("/", func(w http.ResponseWriter, r *http.Request) { http.Redirect(w, r, "/jobs", http.StatusSeeOther) })
		r.Get("/jobs", s.listJobs)
		r.Get("/jobs/new", s.newJob)
		r.Post("/jobs", s.openJob)
		r.Get("/jobs/import", s.importForm)
		r.Get("/jobs/{id}", s.showJob)
		r.Post("/jobs/{id}/next", s.tapOutcome)
		r.Get("/jobs/{id}/export", s.exportJob)
		r.Get("/jobs/{id}/what-if", s.whatIf)
		r.Post("/jobs/{id}/school", s.setSchool)
		r.Post("/jobs/{id}/fails", s.setFails)
		r.Get("/jobs/{id}/readings.csv", s.writeReadings)
		r.Get("/jobs/{id}/instrument", s.readInstrument)
		r.Get("/jobs/{id}/finding", s.showFinding)
		r.Get("/jobs/{id}/finding.pdf", s.printFinding)
		r.Get("/jobs/{id}/kv", s.openKV)
		r.Post("/jobs/{id}/kv", s.recordKV)
		r.Post("/jobs/{id}/captures/{n}", s.changeCapture)
		r.Get("/jobs/{id}/captures/{n}/window", s.window)
		r.Get("/jobs/{id}/captures/{n}/shapes", s.shapes)
		r.Get("/jobs/{id}/captures/{n}/picture.svg", s.savePicture)
		r.Get("/jobs/{id}/captures/{n}/{table}.csv", s.saveTable)
		r.Post("/jobs/{id}/plugs/tap", s.tapPlugs)
		r.Get("/jobs/{id}/photos/{n}", s.showPhoto)
		r.Post("/jobs/{id}/photos/{n}", s.changePhoto)
		r.Get("/jobs/{id}/photos/{n}/{size}.jpg", s.sendPhoto)
		r.Get("/jobs/{id}/{view}", s.showView)
		r.Post("/jobs/{id}/{view}", s.postView)
		r.Get("/jobs/{id}/labels", s.labels)
		r.Get("/jobs/{id}/labels.svg", s.labelsSVG)
		r.Get("/vehicles", s.listVehicles)
		r.Get("/vehicles/new", s.newVehicle)
		r.Post("/vehicles", s.saveVehicle)
		r.Post("/engine-plan", s.planOfForm)
		r.Get("/vehicles/{fleet}", s.showVehicle)
		r.Post("/vehicles/{fleet}", s.saveVehicle)
		r.Post("/theme", s.SetTheme)
		r.Get("/calc", s.listCalculators)
		r.Get("/calc/{name}", s.calculate)
		r.Get("/help", s.help)
		r.Get("/beliefs", s.beliefs)
		r.Get("/shop", s.showShop)
		r.Post("/shop", s.saveShop)
		r.Get("/shop/row", s.showRow)
		r.Post("/shop/row", s.saveRow)
		r.Get("/licences", s.licences)
	})
}

func (s *server) healthz(w http.ResponseWriter, _ *http.Request) {
	page.WriteText(w, http.StatusOK, "ok\n")
}

func (s *server) readyz(w http.ResponseWriter, r *http.Request) {
	ctx, cancel := context.WithTimeout(r.Context(), 3*time.Second)
	defer cancel()
	if err := s.Jobs.Ready(ctx); err != nil {
		trouble := s.Jobs.TroubleOf(err)
		s.Log.Error("not ready", "trouble", trouble, "error", err)
		w.Header().Set("Retry-After", "10")
		page.WriteText(w, http.StatusServiceUnavailable, readyWords[trouble])
		return
	}
	page.WriteText(w, http.StatusOK, "ready\n")
}

// readyWords say why the server is not ready, by the kind of trouble of the store.
var readyWords = map[store.Trouble]string{
	store.Away:     "the database does not answer\n",
	store.Busy:     "the database is busy\n",
	store.Slow:     "the database answers too slowly\n",
	store.Full:     "the database cannot write: its disk is full\n",
	store.ReadOnly: "the database takes no writes\n",
	store.Called:   "the request was called off\n",
	store.Unknown:  "the database reports an error\n",
}
