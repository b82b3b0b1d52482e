package people

import (
	"fmt"
	"strings"
	"unicode"

	"github.com/alexedwards/argon2id"
	"github.com/trustelem/zxcvbn"

	"glenmist/core/invalid"
)

// Bounds of passwords and PINs, in characters. The lengths follow OWASP ASVS 5.0, 6.2.1 and 6.2.9.
const (
	MinPassword = 10
	MaxPassword = 128
	MinPIN      = 4
	MaxPIN      = 8
)

// MaxPINFails is how many wrong PINs in a row are accepted before only the password helps.
const MaxPINFails = 5

// guessable is the greatest score of a password that is too easy to guess, on the scale 0 to 4 of its estimator, which
// knows the common passwords, names and patterns of keys.
const guessable = 2

// hashing is the cost of a hash: 19 MiB and two passes, as the OWASP cheat sheet of password storage recommends at
// least (from memory).
var hashing = argon2id.Params{Memory: 19 << 10, Iterations: 2, Parallelism: 1, SaltLength: 16, KeyLength: 32}

// turns bounds the hashes that are computed at once, and so their memory.
var turns = make(chan struct{}, 2)

// CheckPassword reports what is wrong with a new password, as [invalid.Error], or nil. name is whose it is.
func CheckPassword(password, name string) error {
	n := len([]rune(password))
	switch {
	case n < MinPassword || n > MaxPassword:
		return invalid.Error{Field: "password", Expected: fmt.Sprintf("%d to %d characters", MinPassword, MaxPassword), Got: fmt.Sprint(n)}
	case zxcvbn.PasswordStrength(password, append(strings.Fields(name), "glenmist", name)).Score <= guessable:
		return invalid.Error{Field: "password", Expected: "one that is hard to guess, such as four words that do not belong together", Got: "an easy one"}
	}
	return nil
}

// CheckPIN reports what is wrong with a new PIN, as [invalid.Error], or nil.
func CheckPIN(pin string) error {
	digits := len(pin) >= MinPIN && len(pin) <= MaxPIN && !strings.ContainsFunc(pin, func(r rune) bool { return !unicode.IsDigit(r) || r > '9' })
	if !digits {
		return invalid.Error{Field: "pin", Expected: fmt.Sprintf("%d to %d digits", MinPIN, MaxPIN), Got: "something else"}
	}
	same, up, down := true, true, true
	for i := 1; i < len(pin); i++ {
		step := int(pin[i]) - int(pin[i-1])
		same, up, down = same && step == 0, up && step == 1, down && step == -1
	}
	if same || up || down {
		return invalid.Error{Field: "pin", Expected: "digits that are neither all the same nor in a row", Got: "such digits"}
	}
	return nil
}

// Hash returns the hash of a password or PIN, with its salt and cost.
func Hash(secret string) (string, error) {
	turns <- struct{}{}
	defer func() { <-turns }()
	return argon2id.CreateHash(secret, &hashing)
}

// Matches reports whether a password or PIN belongs to a hash. An empty hash belongs to none; it takes as long.
func Matches(secret, hash string) bool {
	turns <- struct{}{}
	defer func() { <-turns }()
	known := hash != ""
	if !known {
		hash = nobody
	}
	ok, err := argon2id.ComparePasswordAndHash(secret, hash)
	return known && ok && err == nil
}

// nobody is the hash of a random text that was thrown away.
//
//nolint:gosec // no secret
const nobody = "$argon2id$v=19$m=19456,t=2,p=1$JIauV8AgIw52CEv4NMmq0g$IPhIPnOYRTuLalxIU988qaD4ecElNqc6Y66THkrONsw"
