package unit

import "fmt"

// Percent writes a probability as a technician reads it: whole per cent, and
// never a certainty that no evidence can give.
func Percent(p float64) string {
	switch {
	case p > 0 && p < 0.01:
		return "<1\u202f%"
	case p > 0.99 && p < 1:
		return ">99\u202f%"
	}
	return fmt.Sprintf("%.0f\u202f%%", 100*p)
}
