package people

import (
	"errors"
	"strings"
	"testing"

	"glenmist/core/invalid"
)

// Each role has all rights of the roles below it, and more.
func TestRolesGrow(t *testing.T) {
	had := map[Right]bool{}
	for i, role := range Roles() {
		n := 0
		for _, row := range Table() {
			switch may := role.May(row.Right); {
			case may:
				n++
			case had[row.Right]:
				t.Errorf("%s may not %s, which a lesser role may", role, row.Right)
			}
			had[row.Right] = role.May(row.Right)
		}
		if want := []int{2, 5, 7, 10}[i]; n != want {
			t.Errorf("%s has %d rights, want %d", role, n, want)
		}
		if role.May("fly") || (Person{}).May(Read) {
			t.Error("an unknown right is granted, or one to nobody")
		}
	}
	if Least(Countersign) != Lead || Least(Sign) != Technician || Least(Import) != Administrator {
		t.Error("the least roles are wrong")
	}
}

func TestCheckSecrets(t *testing.T) {
	for _, c := range []struct {
		check func(string) error
		typed string
		ok    bool
	}{
		{CheckPIN, "2751", true}, {CheckPIN, "90210", true}, {CheckPIN, "275", false}, {CheckPIN, "123456789", false}, {CheckPIN, "1111", false},
		{CheckPIN, "2345", false}, {CheckPIN, "8765", false}, {CheckPIN, "27a1", false}, {CheckPIN, "٢٧٥١", false},
		{password, "heather gate copper thaw", true},
		// Among the most common ones of any published list, or built from them (ASVS 5.0, 6.2.4).
		{password, "password123", false}, {password, "qwertyuiop", false}, {password, "1234567890", false}, {password, "iloveyou12", false},
		// The person's own name (6.2.11).
		{password, "OdaQuillrigg", false}, {password, "short", false}, {password, strings.Repeat("long ", 30), false},
	} {
		err := c.check(c.typed)
		if (err == nil) != c.ok {
			t.Errorf("%q: %v", c.typed, err)
		}
		if _, told := errors.AsType[invalid.Error](err); err != nil && !told {
			t.Errorf("%q: %v tells no field", c.typed, err)
		}
	}
}

func password(typed string) error { return CheckPassword(typed, "Oda Quillrigg") }

func TestHashMatchesItsSecretOnly(t *testing.T) {
	hash, err := Hash("heather gate copper thaw")
	again, _ := Hash("heather gate copper thaw")
	if err != nil || hash == again || !strings.HasPrefix(hash, "$argon2id$v=19$m=19456,t=2,p=1$") {
		t.Fatal(hash, again, err)
	}
	if !Matches("heather gate copper thaw", hash) || Matches("heather gate copper Thaw", hash) || Matches("", hash) || Matches("", "") || Matches("x", "rubbish") {
		t.Error("the wrong secrets match")
	}
}

func TestCleanName(t *testing.T) {
	for typed, want := range map[string]string{" Oda  Quillrigg\t": "Oda Quillrigg", "": "", "   ": "", strings.Repeat("x", 81): "", "a\x00b": ""} {
		if got, err := CleanName(typed); got != want || (err == nil) != (want != "") {
			t.Errorf("%q: %q, %v", typed, got, err)
		}
	}
	if _, err := ParseRole("boss"); err == nil {
		t.Error("boss is no role")
	}
}
