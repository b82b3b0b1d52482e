// Package core and the rooms below it are the trade: what a drivability
// technician knows and works out while tracing a misfire. Nothing here talks
// HTTP, SQL or HTML, reads a clock or touches a disk; the same input always
// gives the same answer.
//
// Data flows one way: engine, part, evidence, fault, diagnose, plan. A line of
// evidence comes in at one end and a next step goes out at the other.
package core
