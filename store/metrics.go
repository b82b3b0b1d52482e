package store

import (
	"github.com/prometheus/client_golang/prometheus"
	"github.com/prometheus/client_golang/prometheus/collectors"
)

// Collector gives the numbers of the connections to the database.
func (s *Store) Collector() prometheus.Collector {
	return collectors.NewDBStatsCollector(s.sql, "glenmist")
}
