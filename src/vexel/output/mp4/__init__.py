"""What an MP4 file says in its boxes (ISO/IEC 14496-12)."""
