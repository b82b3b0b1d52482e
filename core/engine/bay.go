package engine

import "slices"

// ends lists, for each mounting, the sides that the belt drive can face. flanks lists the
// sides that a bank can face.
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

// Banks returns the number of rows of cylinders: 1 or 2.
func (e Engine) Banks() int {
	if e.Arrangement == V || e.Arrangement == Flat {
		return 2
	}
	return 1
}

// Bank lists the cylinders of bank 1 or 2, starting at the belt end. All cylinders of an
// engine with one row belong to bank 1.
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

// BankOf returns the bank of cylinder c: 1 or 2.
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

// BankSet returns the cylinders of one bank.
func (e Engine) BankSet(bank int) Set { return SetOf(e.Bank(bank)...) }

// BankSide returns the side of the bay that a bank faces. It is "" for an engine with one row.
func (e Engine) BankSide(bank int) Side {
	switch {
	case e.Banks() == 1:
		return ""
	case bank == 1:
		return e.BankOne
	}
	return e.BankOne.Opposite()
}

// Neighbours lists the cylinders next to c in the same bank. A neighbour can share a head
// gasket or an air leak with c.
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

// Apart returns the distance of two cylinders along the block, in places, whichever bank each
// belongs to.
func (e Engine) Apart(a, b Cylinder) int {
	d := slices.Index(e.Bank(e.BankOf(a)), a) - slices.Index(e.Bank(e.BankOf(b)), b)
	return max(d, -d)
}
