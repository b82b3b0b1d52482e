package worksheet

// The cautions of the steps, short. The maker's procedure, local rules and licensed practice take
// precedence.
const (
	makerFirst   = "Follow the maker's procedure and your local rules first."
	highVoltage  = "Ignition off before you touch a coil or lead: it carries tens of kV. Stay away if you have a pacemaker."
	airEyes      = "Protect your eyes when you use compressed air."
	hotEngine    = "A hot exhaust burns: let it cool, and wear gloves."
	alloyThreads = "Threads in an alloy head tear out when the plug is turned hot or dry by force."
	runHands     = "Keep hands, hair and leads clear of belts, fan and hot exhaust."
	memoryLoss   = "Radio, windows and control units may lose their memory: ask the owner for codes first."
	noPower      = "Never use a power tool on these threads."
	skin         = "Keep paste off your skin."
	bladeFirst   = "Plug lead off before a hand goes near the flywheel or a blade."
	cannotStop   = "With the stop wire off, the key does not stop the engine: have another sure way ready."
	sparkGround  = "Ground the tester, shut off the fuel and clear vapours before any open spark."
)
