"""Rulvek: power tests of vehicle and marine amplifiers, from plan to kept evidence."""
