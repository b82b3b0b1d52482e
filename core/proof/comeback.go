package proof

import "math"

// How soon a like trouble arises anew on a sound vehicle (C; judgement): once in so many days or
// kilometres. Hidden is the share of wrong verdicts whose fault handling has cured for a while, so that
// clean running cannot show it. MostSure is the most that any repair is believed once the trouble is back:
// labels get exchanged and slips are recorded.
const (
	AnewDays = 4 * 365
	AnewKm   = 80_000
	Hidden   = 0.3
	MostSure = 0.98
)

// Anew returns the probability that a like trouble arises anew within some days and kilometres.
func Anew(days int, km float64) float64 {
	return -math.Expm1(-max(float64(days)/AnewDays, km/AnewKm, 1.0/AnewDays))
}

// Wrong returns the probability that a trouble that is back is the old one, so that its verdict was wrong.
// verdict is the probability of the verdict at its signature, fixed that of the repair after its runs. With
// f the least of fixed, 1 − Hidden (1 − verdict) and MostSure, Bayes gives (1 − f) / (1 − f + f r), where r is the
// probability of a new trouble since, see [Anew].
func Wrong(verdict, fixed float64, days int, km float64) float64 {
	f := min(fixed, 1-Hidden*(1-verdict), MostSure)
	return (1 - f) / (1 - f + f*Anew(days, km))
}
