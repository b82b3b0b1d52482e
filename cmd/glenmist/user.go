package main

import (
	"bufio"
	"errors"
	"fmt"
	"io"
	"strings"
	"text/tabwriter"

	"github.com/spf13/cobra"

	"glenmist/core/invalid"
	"glenmist/people"
	"glenmist/store"
)

// commandLine is who the audit log names for what is done by command.
const commandLine = "the command line"

func userCommand() *cobra.Command {
	cmd := &cobra.Command{Use: "user", Short: "Add people, set their passwords, list them", Args: cobra.NoArgs,
		RunE: func(*cobra.Command, []string) error {
			return usageError{errors.New("expected user add, user reset or user list")}
		}}
	add := &cobra.Command{Use: "add NAME", Short: "Add a person; the password is read from standard input", Args: cobra.ExactArgs(1), RunE: withStore(addUser)}
	add.Flags().String("role", string(people.Technician), "apprentice, technician, lead or administrator")
	reset := &cobra.Command{Use: "reset NAME", Short: "Set a person's password from standard input, and sign them out everywhere", Args: cobra.ExactArgs(1), RunE: withStore(resetUser)}
	list := &cobra.Command{Use: "list", Short: "List people with their roles", Args: cobra.NoArgs, RunE: withStore(listUsers)}
	cmd.AddCommand(add, reset, list)
	return cmd
}

// readPassword reads a password from the first line of standard input.
func readPassword(cmd *cobra.Command, name string) (string, error) {
	fmt.Fprintf(cmd.ErrOrStderr(), "Password of %s, one line: ", name)
	line, err := bufio.NewReader(io.LimitReader(cmd.InOrStdin(), 4096)).ReadString('\n')
	if err != nil && !errors.Is(err, io.EOF) {
		return "", err
	}
	password := strings.TrimRight(line, "\r\n")
	return password, people.CheckPassword(password, name)
}

func addUser(cmd *cobra.Command, args []string, s *store.Store) error {
	name, err := people.CleanName(args[0])
	if err != nil {
		return usageError{err}
	}
	text, _ := cmd.Flags().GetString("role")
	role, err := people.ParseRole(text)
	if err != nil {
		return usageError{err}
	}
	password, err := readPassword(cmd, name)
	if err != nil {
		return err
	}
	if _, err := s.AddPerson(cmd.Context(), name, role, password); err != nil {
		return err
	}
	fmt.Fprintf(cmd.OutOrStdout(), "%s is added as %s.\n", name, role)
	return nil
}

func resetUser(cmd *cobra.Command, args []string, s *store.Store) error {
	all, err := s.People(cmd.Context())
	if err != nil {
		return err
	}
	for _, p := range all {
		if p.Gone || !strings.EqualFold(p.Name, args[0]) {
			continue
		}
		password, err := readPassword(cmd, p.Name)
		if err != nil {
			return err
		}
		if _, err := s.SetPassword(cmd.Context(), p.ID, password); err != nil {
			return err
		}
		fmt.Fprintf(cmd.OutOrStdout(), "The password of %s is set; they are signed out everywhere.\n", p.Name)
		return nil
	}
	return fmt.Errorf("%w: %s; glenmist user list shows them", store.ErrNoPerson, invalid.Quote(args[0]))
}

func listUsers(cmd *cobra.Command, _ []string, s *store.Store) error {
	all, err := s.People(cmd.Context())
	if err != nil {
		return err
	}
	out := tabwriter.NewWriter(cmd.OutOrStdout(), 0, 4, 2, ' ', 0)
	for _, p := range all {
		seen := "never signed in"
		if !p.Seen.IsZero() {
			seen = "signed in " + p.Seen.Format("2006-01-02")
		}
		if p.Gone {
			seen = "has left"
		}
		fmt.Fprintf(out, "%s\t%s\t%s\n", p.Name, p.Role, seen)
	}
	return out.Flush()
}
