package unit

import "strconv"

// Decimal writes a number with a point and no more digits than it has: "12.5", "0.0004".
func Decimal(v float64) string { return strconv.FormatFloat(v, 'f', -1, 64) }
