"""What the whole house shares: sets of rules, profiles, named adjustments."""
