"""What is known of a picture before any flaw is looked for: its windows, boundaries and planes, its
compression, grain and grading.
"""
