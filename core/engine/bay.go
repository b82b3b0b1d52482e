package engine

import "slices"

// ends are the sides that the belt drive can face, and flanks those that a bank
// can lie towards, by mounting.
var (
	ends   = map[Mounting][2]Side{Lengthways: {Front, Firewall}, Crossways: {Left, Right}}
	flanks = map[Mounting][2]Side{Lengthways: {Left, Right}, Crossways: {Firewall, Front}}
)

// Ends lists the sides that the belt drive can face.
func (m Mounting) Ends() []Side { s := ends[m]; return s[:] }

// Flanks lists the sides that a bank can lie towards.
func (m Mounting) Flanks() []Side { s := flanks[m]; return s[:] }

// Opposite is the side across the bay.
func (s Side) Opposite() Side {
	return map[Side]Side{Front: Firewall, Firewall: Front, Left: Right, Right: Left}[s]
}

// Banks is how many rows of cylinders there are: 1 or 2.
func (e Engine) Banks() int {
	if e.Arrangement == V || e.Arrangement == Flat {
		return 2
	}
	return 1
}

// Bank lists the cylinders of bank 1 or 2 as they stand, from the belt end on.
// An engine in one row is all bank 1.
func (e Engine) Bank(bank int) []Cylinder {
	var row []Cylinder
	for _, c := range e.All() {
		if e.BankOf(c) == bank {
			row = append(row, c)
		}
	}
	if e.CountFrom == FlywheelEnd {
		slices.Reverse(row)
	}
	return row
}

// BankOf says whether c stands in bank 1 or 2.
func (e Engine) BankOf(c Cylinder) int {
	switch {
	case e.Banks() == 1:
		return 1
	case e.Numbering == Alternating:
		return 2 - int(c)%2
	case int(c) <= e.Cylinders/2:
		return 1
	}
	return 2
}

// BankSet is the set of a bank's cylinders.
func (e Engine) BankSet(bank int) Set { return SetOf(e.Bank(bank)...) }

// BankSide is the side of the bay that a bank lies towards, or "" in one row.
func (e Engine) BankSide(bank int) Side {
	switch {
	case e.Banks() == 1:
		return ""
	case bank == 1:
		return e.BankOne
	}
	return e.BankOne.Opposite()
}

// Neighbours lists the cylinders that stand beside c in its bank. A neighbour
// can share a gasket or an air leak with c.
func (e Engine) Neighbours(c Cylinder) []Cylinder {
	row := e.Bank(e.BankOf(c))
	i := slices.Index(row, c)
	var beside []Cylinder
	for _, k := range []int{i - 1, i + 1} {
		if i >= 0 && k >= 0 && k < len(row) {
			beside = append(beside, row[k])
		}
	}
	return beside
}

// Apart is how many places along the block two cylinders stand from each other,
// whichever their banks.
func (e Engine) Apart(a, b Cylinder) int {
	d := slices.Index(e.Bank(e.BankOf(a)), a) - slices.Index(e.Bank(e.BankOf(b)), b)
	return max(d, -d)
}
