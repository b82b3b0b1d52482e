package unit

import "fmt"

// Percent formats a probability in whole per cent. It never shows 0 % or 100 %.
func Percent(p float64) string {
	switch {
	case p > 0 && p < 0.01:
		return "<1\u202f%"
	case p > 0.99 && p < 1:
		return ">99\u202f%"
	}
	return fmt.Sprintf("%.0f\u202f%%", 100*p)
}
