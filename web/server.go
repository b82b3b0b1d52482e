// Package web is the face in the browser: routes, handlers, pages and assets. It
// is the only place that knows HTTP. A page has its handler, its view model and
// its template side by side, named alike.
package web

import (
	"context"
	"net/http"
	"time"

	"github.com/go-chi/chi/v5"
	"github.com/go-chi/chi/v5/middleware"

	"glenmist/archive"
	"glenmist/people"
	"glenmist/store"
	"glenmist/web/capture"
	"glenmist/web/exchange"
	"glenmist/web/finding"
	"glenmist/web/jobs"
	"glenmist/web/live"
	"glenmist/web/page"
	"glenmist/web/plugs"
	"glenmist/web/proof"
	"glenmist/web/repair"
	"glenmist/web/staff"
	"glenmist/web/vehicle"
	"glenmist/web/workshop"
)

// server routes each address to its room.
type server struct {
	*page.App
	job      *jobs.Pages
	capture  *capture.Pages
	plugs    *plugs.Pages
	vehicle  *vehicle.Pages
	workshop *workshop.Pages
	finding  *finding.Pages
	repair   *repair.Pages
	proof    *proof.Pages
	exchange *exchange.Pages
	live     *live.Pages
	staff    *staff.Pages
	metrics  *metrics
}

// views are the work views of a job, in the order of their tabs.
var views = []jobs.View{proof.ComebackView, proof.ProveView, live.View, jobs.CodesView, jobs.TrimsView, jobs.CountersView, jobs.WatchView, jobs.MoveView, jobs.PartsView, jobs.LookView, plugs.BoardView, plugs.BesideView,
	jobs.CheckView, jobs.SparkView, jobs.MeterView, capture.View, jobs.ChainView, repair.WorksheetView, repair.RenewalView, jobs.CoversView, jobs.DangerView, jobs.FitView,
	proof.ClearingView, proof.RecheckView, proof.ClosingView, jobs.VerdictView, jobs.CountersignView, jobs.WithdrawView}

func newServer(app *page.App) *server {
	s := &server{App: app, job: jobs.New(app, views)}
	s.capture = capture.New(s.job)
	s.plugs = plugs.New(s.job)
	s.repair = repair.New(s.job)
	s.proof = proof.New(s.job)
	s.vehicle = vehicle.New(s.job)
	s.workshop = workshop.New(app, s.job.Refresh)
	s.finding = finding.New(s.capture)
	s.exchange = exchange.New(s.capture)
	s.live = live.New(s.job)
	s.staff = staff.New(app, s.job.Refresh)
	s.metrics = s.newMetrics()
	return s
}

// load makes a server from the embedded assets and templates.
func load(cfg page.Config) (*server, error) {
	assets, err := page.LoadAssets(built)
	if err != nil {
		return nil, err
	}
	pages, err := page.LoadTemplates(assets, templates...)
	if err != nil {
		return nil, err
	}
	return newServer(page.New(cfg, assets, pages)), nil
}

// New makes the handler. It fails when the assets have not been built.
func New(cfg page.Config) (http.Handler, error) {
	s, err := load(cfg)
	if err != nil {
		return nil, err
	}
	s.job.Refresh()
	if _, err := s.staff.First(context.Background()); err != nil {
		cfg.Log.Error("first administrator", "error", err) // it is asked again at the first sign-in
	}
	r := chi.NewRouter()
	r.Use(middleware.RequestID, middleware.GetHead, s.metrics.measured, s.logged, s.recovered, s.secured, s.answered, s.atHome, crossOrigin(s), s.identified, jobs.RunAtEnd)
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
		r.Use(s.decoded, deadline(page.CaptureTime), limitBody(capture.MaxCapture), s.limited(uploads))
		r.Post("/jobs/{id}/captures", s.staff.May(people.Record, s.capture.AddCapture))
		r.Get("/jobs/{id}/captures/{n}/file", s.staff.May(people.Export, s.capture.SendCapture))
		r.Post("/jobs/{id}/scope", s.staff.May(people.Record, s.capture.KeepScope))
		r.Get("/jobs/{id}/export.zip", s.staff.May(people.Export, s.exchange.ExportAll))
	})
	r.Group(func(r chi.Router) {
		r.Use(s.decoded, deadline(page.CaptureTime), limitBody(archive.MaxBytes+page.MaxUpload), s.limited(func(l page.Limits) int { return l.Imports }))
		r.Post("/jobs/import", s.staff.May(people.Import, s.exchange.ImportJob))
	})
	r.Group(func(r chi.Router) {
		r.Use(s.decoded, deadline(page.UploadTime), limitBody(plugs.MaxPhoto), s.limited(uploads))
		r.Post("/jobs/{id}/photos", s.staff.May(people.Record, s.plugs.AddPhoto))
		r.Post("/jobs/{id}/worksheet/off", s.staff.May(people.Record, s.repair.PostOff))
	})
	r.Group(func(r chi.Router) {
		r.Use(s.decoded, deadline(page.ListenTime))
		r.Get("/jobs/{id}/scope", s.staff.May(people.Read, s.capture.Listen))
		r.Get("/jobs/{id}/live/events", s.staff.May(people.Read, s.live.Events))
	})
	r.Group(func(r chi.Router) {
		r.Use(s.decoded, deadline(page.UploadTime), limitBody(page.MaxUpload), s.limited(uploads))
		r.Post("/jobs/{id}/scan", s.staff.May(people.Record, s.job.ReadScan))
		r.Post("/jobs/{id}/readings", s.staff.May(people.Record, s.job.ReadReadings))
		r.Post("/jobs/{id}/live/read", s.staff.May(people.Record, s.live.ReadAll))
		r.Post("/jobs/{id}/live/clear", s.staff.May(people.Record, s.live.Clear))
		r.Post("/catalogue/import", s.staff.May(people.Keep, s.repair.ImportCatalogue))
	})
}

// pageRoutes are all others.
func (s *server) pageRoutes(r chi.Router) {
	r.Group(func(r chi.Router) {
		r.Use(s.decoded, deadline(page.PageTime), limitBody(maxForm), middleware.Compress(5, "text/html", "application/json", "image/svg+xml"))
		s.jobRoutes(r)
		s.workshopRoutes(r)
		s.staffRoutes(r)
	})
}

// jobRoutes are the pages of one job.
func (s *server) jobRoutes(r chi.Router) {
	r.Get("/jobs/{id}", s.staff.May(people.Read, s.job.ShowJob))
	r.Post("/jobs/{id}/next", s.staff.May(people.Record, s.job.TapOutcome))
	r.Get("/jobs/{id}/export", s.staff.May(people.Export, s.exchange.ExportJob))
	r.Get("/jobs/{id}/what-if", s.staff.May(people.Read, s.job.WhatIf))
	r.Get("/jobs/{id}/find", s.staff.May(people.Read, s.job.Find))
	r.Get("/jobs/{id}/course", s.staff.May(people.Read, s.job.ShowCourse))
	if s.Gallery {
		r.Get("/gallery", s.staff.May(people.Read, s.job.Gallery))
		r.Get("/gallery/kv/{state}", s.staff.May(people.Read, s.capture.GalleryKV))
		r.Get("/gallery/{view}/{state}", s.staff.May(people.Read, s.job.GalleryView))
	}
	r.Post("/jobs/{id}/school", s.staff.May(people.Record, s.job.SetSchool))
	r.Post("/jobs/{id}/fails", s.staff.May(people.Record, s.job.SetFails))
	r.Get("/jobs/{id}/readings.csv", s.staff.May(people.Read, s.job.WriteReadings))
	r.Get("/jobs/{id}/instrument", s.staff.May(people.Read, s.job.ReadInstrument))
	r.Get("/jobs/{id}/finding", s.staff.May(people.Read, s.finding.ShowFinding))
	r.Get("/jobs/{id}/finding.pdf", s.staff.May(people.Read, s.finding.PrintFinding))
	r.Get("/jobs/{id}/kv", s.staff.May(people.Read, s.capture.OpenKV))
	r.Post("/jobs/{id}/kv", s.staff.May(people.Record, s.capture.RecordKV))
	r.Post("/jobs/{id}/captures/{n}", s.staff.May(people.Record, s.capture.ChangeCapture))
	r.Get("/jobs/{id}/captures/{n}/window", s.staff.May(people.Read, s.capture.Window))
	r.Get("/jobs/{id}/captures/{n}/shapes", s.staff.May(people.Read, s.capture.Shapes))
	r.Get("/jobs/{id}/captures/{n}/picture.svg", s.staff.May(people.Read, s.capture.SavePicture))
	r.Get("/jobs/{id}/captures/{n}/{table}.csv", s.staff.May(people.Read, s.capture.SaveTable))
	r.Post("/jobs/{id}/plugs/tap", s.staff.May(people.Record, s.plugs.TapPlugs))
	r.Get("/jobs/{id}/photos/{n}", s.staff.May(people.Read, s.plugs.ShowPhoto))
	r.Post("/jobs/{id}/photos/{n}", s.staff.May(people.Record, s.plugs.ChangePhoto))
	r.Get("/jobs/{id}/photos/{n}/{size}.jpg", s.staff.May(people.Read, s.plugs.SendPhoto))
	r.Post("/jobs/{id}/worksheet", s.staff.May(people.Record, s.repair.PostMark))
	r.Post("/jobs/{id}/worksheet/figure", s.staff.May(people.Record, s.repair.PostFigure))
	r.Post("/jobs/{id}/renewal", s.staff.May(people.Record, s.repair.PostRenewal))
	r.Post("/jobs/{id}/comeback", s.staff.May(people.Record, s.proof.PostComeback))
	r.Post("/jobs/{id}/live/begin", s.staff.May(people.Record, s.live.Begin))
	r.Post("/jobs/{id}/live/end", s.staff.May(people.Record, s.live.End))
	r.Post("/jobs/{id}/live/drive", s.staff.May(people.Record, s.live.Drive))
	r.Post("/jobs/{id}/live/drives/{n}", s.staff.May(people.Record, s.live.WriteDown))
	r.Get("/jobs/{id}/live/drives/{n}.csv", s.staff.May(people.Read, s.live.SendDrive))
	r.Get("/jobs/{id}/road", s.staff.May(people.Read, s.live.ShowRoad))
	r.Get("/jobs/{id}/paper", s.staff.May(people.Read, s.repair.ShowPaper))
	r.Get("/jobs/{id}/{view}", s.staff.May(people.Read, s.job.ShowView))
	r.Post("/jobs/{id}/{view}", s.staff.May(people.Record, s.job.PostView))
	r.Get("/jobs/{id}/labels", s.staff.May(people.Read, s.vehicle.Labels))
	r.Get("/jobs/{id}/labels.svg", s.staff.May(people.Read, s.vehicle.LabelsSVG))
}

// workshopRoutes are the lists and pages of the workshop as a whole.
func (s *server) workshopRoutes(r chi.Router) {
	r.Get("/", func(w http.ResponseWriter, r *http.Request) { http.Redirect(w, r, "/jobs", http.StatusSeeOther) })
	r.Get("/jobs", s.staff.May(people.Read, s.job.ListJobs))
	r.Get("/jobs.csv", s.staff.May(people.Export, s.job.ListCSV))
	r.Post("/searches", s.staff.May(people.Read, s.job.KeepSearch))
	r.Get("/jobs/new", s.staff.May(people.Record, s.vehicle.NewJob))
	r.Post("/jobs", s.staff.May(people.Record, s.vehicle.OpenJob))
	r.Get("/jobs/import", s.staff.May(people.Import, s.exchange.ImportForm))
	r.Get("/rechecks.ics", s.staff.ByFeed(s.proof.Calendar))
	r.Get("/score", s.staff.May(people.Read, s.proof.ShowScore))
	r.Post("/score", s.staff.May(people.Settle, s.proof.SetLearning))
	r.Get("/find", s.staff.May(people.Read, s.job.Find))
	r.Get("/catalogue", s.staff.May(people.Read, s.repair.ShowCatalogue))
	r.Post("/catalogue", s.staff.May(people.Keep, s.repair.SaveItem))
	r.Get("/catalogue.csv", s.staff.May(people.Export, s.repair.ExportCatalogue))
	r.Get("/vehicles", s.staff.May(people.Read, s.vehicle.ListVehicles))
	r.Get("/vehicles/new", s.staff.May(people.Keep, s.vehicle.NewVehicle))
	r.Post("/vehicles", s.staff.May(people.Keep, s.vehicle.SaveVehicle))
	r.Post("/engine-plan", s.staff.May(people.Read, s.vehicle.PlanOfForm))
	r.Get("/vehicles/{fleet}", s.staff.May(people.Read, s.vehicle.ShowHistory))
	r.Get("/vehicles/{fleet}/engine", s.staff.May(people.Read, s.vehicle.ShowVehicle))
	r.Post("/vehicles/{fleet}", s.staff.May(people.Keep, s.vehicle.SaveVehicle))
	r.Post("/theme", s.SetTheme)
	r.Get("/calc", s.workshop.ListCalculators)
	r.Get("/calc/{name}", s.workshop.Calculate)
	r.Get("/help", s.workshop.Help)
	r.Get("/beliefs", s.staff.May(people.Read, s.workshop.Beliefs))
	r.Get("/shop", s.staff.May(people.Read, s.workshop.ShowShop))
	r.Post("/shop", s.staff.May(people.Settle, s.workshop.SaveShop))
	r.Get("/shop/row", s.staff.May(people.Read, s.workshop.ShowRow))
	r.Post("/shop/row", s.staff.May(people.Settle, s.workshop.SaveRow))
	r.Get("/licences", s.workshop.Licences)
}

// staffRoutes sign people in, keep them, and erase and audit.
func (s *server) staffRoutes(r chi.Router) {
	r.Get("/sign-in", s.staff.ShowSignIn)
	r.With(s.limited(func(l page.Limits) int { return l.SignIns }, byName)).Post("/sign-in", s.staff.SignIn)
	r.Post("/sign-out", s.staff.SignOut)
	r.Post("/awake", s.staff.Awake)
	r.Get("/first/{token}", s.staff.ShowFirst)
	r.With(s.limited(func(l page.Limits) int { return l.SignIns })).Post("/first/{token}", s.staff.AddFirst)
	r.Get("/account", s.staff.May(people.Read, s.staff.ShowAccount))
	r.With(s.limited(func(l page.Limits) int { return l.SignIns })).Post("/account", s.staff.May(people.Read, s.staff.ChangeAccount))
	r.Get("/people", s.staff.May(people.Administer, s.staff.ShowPeople))
	r.Post("/people", s.staff.May(people.Administer, s.staff.AddPerson))
	r.Post("/people/{id}", s.staff.May(people.Administer, s.staff.ChangePerson))
	r.Post("/devices/{id}", s.staff.May(people.Administer, s.staff.RemoveDevice))
	r.Get("/erase/{what}/{id}", s.staff.May(people.Delete, s.staff.ShowErase))
	r.Post("/erase/{what}/{id}", s.staff.May(people.Delete, s.staff.Erase))
	r.Get("/audit", s.staff.May(people.Administer, s.staff.ShowAudit))
	r.Get("/audit.csv", s.staff.May(people.Administer, s.staff.WriteAudit))
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

// readyWords states why the server is not ready, by the kind of trouble of the store.
var readyWords = map[store.Trouble]string{
	store.Away:     "the database does not answer\n",
	store.Busy:     "the database is busy\n",
	store.Slow:     "the database answers too slowly\n",
	store.Full:     "the database cannot write: its disk is full\n",
	store.ReadOnly: "the database takes no writes\n",
	store.Called:   "the request was called off\n",
	store.Unknown:  "the database reports an error\n",
}
