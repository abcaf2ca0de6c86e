"""Stand-ins for what a test has not: an output that only notes what it was given."""


class NotingOutput:
    def __init__(self):
        self.played, self.began, self.stopped, self.at = [], [], 0, None

    def play(self, sound, from_s=0.0):
        self.played.append(sound)
        self.began.append(from_s)
        self.at = from_s

    def at_s(self):
        return self.at

    def stop(self):
        self.stopped += 1
