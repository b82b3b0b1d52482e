package web

import (
	"net/http"
	"strconv"
	"time"

	"github.com/go-chi/chi/v5"
	"github.com/go-chi/chi/v5/middleware"
	"github.com/prometheus/client_golang/prometheus"
)

// metrics are the server's numbers. Their labels come from bounded sets: routes, methods and kinds of status.
type metrics struct {
	requests *prometheus.CounterVec
	seconds  *prometheus.HistogramVec
	running  prometheus.Gauge
	panics   prometheus.Counter
}

// newMetrics registers the numbers of a server.
func (s *server) newMetrics() *metrics {
	m := &metrics{
		requests: prometheus.NewCounterVec(prometheus.CounterOpts{Name: "glenmist_requests_total", Help: "Requests that were answered."}, []string{"route", "method", "status"}),
		seconds: prometheus.NewHistogramVec(prometheus.HistogramOpts{Name: "glenmist_request_seconds", Help: "Time from a request to the end of its answer.",
			Buckets: []float64{0.005, 0.02, 0.1, 0.5, 2, 10, 60}}, []string{"route"}),
		running: prometheus.NewGauge(prometheus.GaugeOpts{Name: "glenmist_requests_running", Help: "Requests that are being answered."}),
		panics:  prometheus.NewCounter(prometheus.CounterOpts{Name: "glenmist_panics_total", Help: "Requests that ended in a panic."}),
	}
	all := []prometheus.Collector{m.requests, m.seconds, m.running, m.panics, s.Jobs.Collector(),
		gauge("glenmist_spooled_bytes", "Bytes of uploads and downloads in temporary files.", func() float64 { return float64(s.Spool.Used()) }),
		gauge("glenmist_captures_waiting", "Captures that wait to be read.", func() float64 { return float64(s.capture.Waiting()) }),
	}
	if s.Backups != nil {
		all = append(all,
			gauge("glenmist_backup_age_seconds", "Time since the newest backup.", func() float64 { return s.Now().Sub(s.Backups.Status().Last).Seconds() }),
			gauge("glenmist_backup_failed", "1 if the last backup failed.", func() float64 {
				if s.Backups.Status().Failed != "" {
					return 1
				}
				return 0
			}))
	}
	for _, c := range all {
		s.Metrics.MustRegister(c)
	}
	return m
}

func gauge(name, help string, value func() float64) prometheus.Collector {
	return prometheus.NewGaugeFunc(prometheus.GaugeOpts{Name: name, Help: help}, value)
}

// measured counts a request when it is answered, by its route.
func (m *metrics) measured(next http.Handler) http.Handler {
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		began := time.Now()
		ww := middleware.NewWrapResponseWriter(w, r.ProtoMajor)
		m.running.Inc()
		defer m.running.Dec()
		next.ServeHTTP(ww, r)
		route := "none"
		if c := chi.RouteContext(r.Context()); c != nil && c.RoutePattern() != "" {
			route = c.RoutePattern()
		}
		m.requests.WithLabelValues(route, methodOf(r), strconv.Itoa(max(200, ww.Status())/100)+"xx").Inc()
		m.seconds.WithLabelValues(route).Observe(time.Since(began).Seconds())
	})
}

// methodOf is the method of a request; one that no page takes is "other".
func methodOf(r *http.Request) string {
	switch r.Method {
	case http.MethodGet, http.MethodHead, http.MethodPost:
		return r.Method
	}
	return "other"
}
