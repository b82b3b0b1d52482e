package fault

import "strings"

// ModeID identifies one way to fail. It is stable: files, addresses and a workshop's own rows
// use it.
type ModeID string

// The modes of the [Catalogue].
const (
	CoilPrimaryOpen      ModeID = "coil.primary-open"
	CoilPrimaryShorted   ModeID = "coil.primary-shorted"
	CoilSecondaryOpen    ModeID = "coil.secondary-open"
	CoilSecondaryShorted ModeID = "coil.secondary-shorted"
	CoilWeakHot          ModeID = "coil.weak-hot"
	CoilWeakLoad         ModeID = "coil.weak-load"
	CoilCracked          ModeID = "coil.cracked"
	CoilLeadOpen         ModeID = "coil-lead.open"
	CoilLeadLeaking      ModeID = "coil-lead.leaking"
	RotorLeaking         ModeID = "rotor.leaking"
	RotorWorn            ModeID = "rotor.worn"
	CapTracked           ModeID = "cap.tracked"
	CapTowerBurnt        ModeID = "cap.tower-burnt"
	LeadOpen             ModeID = "lead.open"
	LeadHighResistance   ModeID = "lead.high-resistance"
	LeadLeaking          ModeID = "lead.leaking"
	BootTracked          ModeID = "boot.tracked"
	BootSwollen          ModeID = "boot.swollen"
	BootTorn             ModeID = "boot.torn"
	BootSpring           ModeID = "boot.spring"
	PlugWornGap          ModeID = "plug.worn-gap"
	PlugCracked          ModeID = "plug.cracked"
	PlugCarbonFouled     ModeID = "plug.carbon-fouled"
	PlugFuelFouled       ModeID = "plug.fuel-fouled"
	PlugOilFouled        ModeID = "plug.oil-fouled"
	PlugClosedGap        ModeID = "plug.closed-gap"
	PlugWrong            ModeID = "plug.wrong"
	PlugLoose            ModeID = "plug.loose"
	ConnectorLoose       ModeID = "connector.loose"
	ConnectorCorroded    ModeID = "connector.corroded"
	ModulePoorContact    ModeID = "module.poor-contact"
	SeatNotHome          ModeID = "seat.not-home"
	FeedLow              ModeID = "feed.low"
	GroundPoor           ModeID = "ground.poor"
	TriggerWire          ModeID = "trigger.wire"
	DriverDead           ModeID = "driver.dead"
	PickupWeak           ModeID = "pickup.weak"
	TimingOff            ModeID = "timing.off"
	TimingKey            ModeID = "timing.key"
	LeadOrderExchanged   ModeID = "lead-order.exchanged"
	StopWireShorted      ModeID = "stop-wire.shorted"
	StopWireSwitch       ModeID = "stop-wire.switch"
	AirGapWide           ModeID = "air-gap.wide" //nolint:gosec // a mode, no password
	WellOil              ModeID = "well.oil"
	WellWater            ModeID = "well.water"
	InjectorElectrical   ModeID = "injector.electrical"
	InjectorClogged      ModeID = "injector.clogged"
	InjectorLeaking      ModeID = "injector.leaking"
	CompressionValve     ModeID = "compression.valve"
	CompressionRings     ModeID = "compression.rings"
	CompressionGasket    ModeID = "compression.gasket"
	AirLeak              ModeID = "air.leak"
	FuelLow              ModeID = "fuel.low"
)

// The ids of the two outcomes that are not in the catalogue.
const (
	SomethingElse ModeID = "something.else"
	NoFaultNow    ModeID = "no-fault.now"
)

// Family identifies all modes of one item. It is the first part of their ids.
type Family string

// The families.
const (
	AnyCoil        Family = "coil"
	AnyCoilLead    Family = "coil-lead"
	AnyRotor       Family = "rotor"
	AnyCap         Family = "cap"
	AnyLead        Family = "lead"
	AnyBoot        Family = "boot"
	AnyPlug        Family = "plug"
	AnyConnector   Family = "connector"
	AnyModule      Family = "module"
	AnySeat        Family = "seat"
	AnyFeed        Family = "feed"
	AnyGround      Family = "ground"
	AnyTrigger     Family = "trigger"
	AnyDriver      Family = "driver"
	AnyPickup      Family = "pickup"
	AnyTiming      Family = "timing"
	AnyLeadOrder   Family = "lead-order"
	AnyStopWire    Family = "stop-wire"
	AnyAirGap      Family = "air-gap"
	AnyWell        Family = "well"
	AnyInjector    Family = "injector"
	AnyCompression Family = "compression"
	AnyAir         Family = "air"
	AnyFuel        Family = "fuel"
	AnythingElse   Family = "something"
	AnyNoFault     Family = "no-fault"
)

// Key selects modes in a table row: one mode, or a family.
type Key interface {
	// Covers reports whether the key selects a mode.
	Covers(ModeID) bool
	// String returns the id as it is written in the row's name.
	String() string
}

// Covers reports whether id is the mode itself.
func (m ModeID) Covers(id ModeID) bool { return m == id }

// String returns the id.
func (m ModeID) String() string { return string(m) }

// Covers reports whether the mode belongs to the family.
func (f Family) Covers(id ModeID) bool {
	return len(id) > len(f) && id[len(f)] == '.' && string(id[:len(f)]) == string(f)
}

// String returns the first part of the ids.
func (f Family) String() string { return string(f) }

// Keys selects the modes of a table row.
type Keys []Key

// Covers reports whether one of the keys selects a mode.
func (k Keys) Covers(id ModeID) bool {
	for _, one := range k {
		if one.Covers(id) {
			return true
		}
	}
	return false
}

// String returns the ids joined by "+".
func (k Keys) String() string {
	words := make([]string, len(k))
	for i, one := range k {
		words[i] = one.String()
	}
	return strings.Join(words, "+")
}
