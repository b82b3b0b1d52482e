package diagnose

import (
	"glenmist/core/knowledge"
	"glenmist/core/spark"
)

// gap is throughGap of a tester.
func (t tester) gap() [4][4]float64 {
	return knowledge.ThroughGap(spark.Range{Low: t.low, High: t.high})
}
